/**
 * Runs can be paused, stand in line behind one another, and say where their files go, which pictures they were for and what was varied this
 * once; each output knows how long it was expected to take and took.
 */
export const runsAndPlaces = `
ALTER TABLE work DROP CONSTRAINT work_name_check;
ALTER TABLE work ADD CONSTRAINT work_name_check CHECK (name IN ('read-master', 'check-watermark', 'render-master', 'weigh-master'));
ALTER TABLE runs DROP CONSTRAINT runs_state_check;
ALTER TABLE runs ADD CONSTRAINT runs_state_check CHECK (state IN ('running', 'paused', 'done', 'cancelled'));
DROP INDEX one_running_run_per_set;
CREATE UNIQUE INDEX one_open_run_per_set ON runs (set_id) WHERE state IN ('running', 'paused');
ALTER TABLE runs ADD COLUMN line integer NOT NULL DEFAULT 0;
ALTER TABLE runs ADD COLUMN once jsonb NOT NULL DEFAULT '{}';
ALTER TABLE runs ADD COLUMN scope jsonb NOT NULL DEFAULT '{}';
ALTER TABLE runs ADD COLUMN place jsonb NOT NULL DEFAULT '{"kind": "own"}';
ALTER TABLE sets ADD COLUMN place jsonb NOT NULL DEFAULT '{"kind": "own"}';
ALTER TABLE sets ADD COLUMN once jsonb NOT NULL DEFAULT '{}';
ALTER TABLE outputs ADD COLUMN expected_ms integer NOT NULL DEFAULT 0;
ALTER TABLE outputs ADD COLUMN ms integer;
ALTER TABLE outputs ADD COLUMN made_of jsonb;
CREATE INDEX outputs_timed ON outputs (finished_at DESC) WHERE ms IS NOT NULL;
CREATE INDEX outputs_failed ON outputs (master_id, preset_id) WHERE state = 'failed';
`;
