/**
 * What a state means is said by the tables, too: a master that is ready has facts, an output that is done has a weight. And of the outputs
 * that were made at one place, the newest is marked, so that plans and lists look it up instead of sorting the whole history.
 */
export const statesAndNewestOutputs = `
UPDATE masters SET state = 'failed', problem = '{"code": "unreadable", "message": "Its facts are lost. Read it again."}'
  WHERE state = 'ready' AND (facts IS NULL OR sha256 IS NULL);
UPDATE masters SET problem = '{"code": "unreadable", "message": "It could not be read. Read it again."}' WHERE state = 'failed' AND problem IS NULL;
UPDATE masters SET problem = NULL WHERE state = 'ready';
ALTER TABLE masters ADD CONSTRAINT masters_ready CHECK (state <> 'ready' OR (facts IS NOT NULL AND sha256 IS NOT NULL AND problem IS NULL));
ALTER TABLE masters ADD CONSTRAINT masters_failed CHECK (state <> 'failed' OR problem IS NOT NULL);

UPDATE outputs SET finished_at = now() WHERE state IN ('done', 'failed') AND finished_at IS NULL;
UPDATE outputs SET state = 'failed' WHERE state = 'done' AND bytes IS NULL;
UPDATE outputs SET error = '{"code": "render-failed", "message": "It could not be made. Run again."}' WHERE state = 'failed' AND error IS NULL;
UPDATE outputs SET error = NULL WHERE state <> 'failed';
ALTER TABLE outputs ADD CONSTRAINT outputs_done CHECK (state <> 'done' OR (bytes IS NOT NULL AND finished_at IS NOT NULL));
ALTER TABLE outputs ADD CONSTRAINT outputs_failed CHECK ((state = 'failed') = (error IS NOT NULL));

ALTER TABLE outputs ADD COLUMN is_newest boolean NOT NULL DEFAULT false;
UPDATE outputs SET is_newest = true WHERE id IN (
  SELECT DISTINCT ON (target, folder, file_name) id FROM outputs WHERE state = 'done' ORDER BY target, folder, file_name, finished_at DESC);
ALTER TABLE outputs ADD CONSTRAINT outputs_newest CHECK (state = 'done' OR NOT is_newest);
CREATE UNIQUE INDEX outputs_newest_by_place ON outputs (target, folder, file_name) WHERE is_newest;
CREATE INDEX outputs_newest_by_master ON outputs (master_id, preset_id) WHERE is_newest;
DROP INDEX outputs_done_by_place;
`;
