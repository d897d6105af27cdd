/**
 * The seat of a worker on its machine, which the one that follows it takes; what it says of itself; seats that are to take nothing new; and what all
 * workers have done, ever.
 */
export const workersAtWork = `
ALTER TABLE workers ADD COLUMN seat text, ADD COLUMN engine integer, ADD COLUMN stats jsonb NOT NULL DEFAULT '{}';
CREATE TABLE drained_seats (host text NOT NULL, seat text NOT NULL, since timestamptz NOT NULL DEFAULT now(), PRIMARY KEY (host, seat));
CREATE TABLE work_totals (name text PRIMARY KEY, value float8 NOT NULL);
`;
