/**
 * What whole files weigh and how they differ from the unencoded picture, by their recipe: each is encoded once, whoever asks again. The content is
 * that of the master, so that what is known of it goes with it.
 */
export const measuredOutputs = `
CREATE TABLE measured_outputs (
  recipe text PRIMARY KEY,
  content text NOT NULL,
  measured jsonb NOT NULL,
  measured_at timestamptz NOT NULL DEFAULT now()
);
CREATE INDEX measured_outputs_content ON measured_outputs (content);
`;
