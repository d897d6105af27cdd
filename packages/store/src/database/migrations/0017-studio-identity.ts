/**
 * Which studio this database belongs to: its data folder carries the same id, so that neither is taken for another's. `begun` is when the
 * database came to the folder, or earlier: what is older lies there from before and is never swept.
 *
 * Messages for a mail program were written down as not written when there was one only, though they lay ready.
 */
export const studioIdentity = `
CREATE TABLE studio_identity (
  one boolean PRIMARY KEY DEFAULT true CHECK (one),
  id uuid NOT NULL,
  begun timestamptz NOT NULL DEFAULT now()
);
UPDATE deliveries SET messages = (SELECT jsonb_agg(message || '{"sent": true}') FROM jsonb_array_elements(messages) message)
WHERE state = 'done' AND wish->'way'->>'kind' = 'mail' AND messages <> '[]';
`;
