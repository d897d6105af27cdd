/** Since when a worker is there, what it says of itself, and whether it is to take nothing new; and what all workers have done, ever. */
export const workersAtWork = `
ALTER TABLE workers ADD COLUMN signed_on_at timestamptz NOT NULL DEFAULT now(), ADD COLUMN engine integer,
  ADD COLUMN stats jsonb NOT NULL DEFAULT '{}', ADD COLUMN drained_at timestamptz;
CREATE TABLE work_totals (name text PRIMARY KEY, value float8 NOT NULL);
`;
