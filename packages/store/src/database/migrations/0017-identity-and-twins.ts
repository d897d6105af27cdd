/**
 * Which studio this database belongs to: its data folder carries the same id, so that neither is taken for another's. `begun` is when the
 * database came to the folder, or earlier: what is older lies there from before and is never swept.
 *
 * Files of watched folders may be twins of others.
 *
 * Messages for a mail program were written down as not written when there was one only, though they lay ready.
 */
export const identityAndTwins = `
CREATE TABLE studio_identity (
  one boolean PRIMARY KEY DEFAULT true CHECK (one),
  id uuid NOT NULL,
  begun timestamptz NOT NULL DEFAULT now()
);
UPDATE deliveries SET messages = (SELECT jsonb_agg(message || '{"sent": true}') FROM jsonb_array_elements(messages) message)
WHERE state = 'done' AND wish->'way'->>'kind' = 'mail' AND messages <> '[]';
ALTER TABLE standing_order_files DROP CONSTRAINT standing_order_files_fate_check;
ALTER TABLE standing_order_files ADD CONSTRAINT standing_order_files_fate_check CHECK (fate IN ('left', 'own', 'taken', 'twin', 'refused'));
ALTER TABLE standing_order_files DROP CONSTRAINT taken_by_content;
ALTER TABLE standing_order_files ADD CONSTRAINT taken_by_content CHECK (fate NOT IN ('taken', 'own', 'twin') OR sha256 IS NOT NULL);
CREATE INDEX standing_order_files_sha256 ON standing_order_files (order_id, sha256);
`;
