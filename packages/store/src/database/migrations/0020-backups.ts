/** When and where backups are made by themselves, and what came of each. One that is under way is known to the server alone. */
export const backups = `
CREATE TABLE backup_plan (
  id integer PRIMARY KEY CHECK (id = 1),
  plan jsonb NOT NULL
);
CREATE TABLE backups (
  id uuid PRIMARY KEY DEFAULT gen_random_uuid(),
  folder text NOT NULL,
  begun_at timestamptz NOT NULL,
  finished_at timestamptz NOT NULL,
  done jsonb,
  problem text,
  CHECK ((done IS NULL) <> (problem IS NULL))
);
CREATE INDEX backups_begun ON backups (begun_at);
`;
