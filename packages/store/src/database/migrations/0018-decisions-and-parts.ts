/**
 * What was decided about a picture is kept without what says nothing, also in work that waits: then a decision that is not there was not made.
 *
 * Outputs are known by their picture, their preset and their part: several files of one picture have one each. Of all that were made of one part
 * the last is current; earlier ones, as copies with a number behind their names, stay as what they are.
 *
 * Measurements of whole files were kept by less than what decides about them, so that some are wrong: all are made anew when they are asked for.
 *
 * Workers tell which types they can read, too, beside those that all can.
 *
 * A set may ask for everything that an earlier engine made to be made again: the number is that of the engine that shall make it.
 */
export const decisionsAndParts = `
CREATE FUNCTION pg_temp.said(overrides jsonb) RETURNS jsonb LANGUAGE sql IMMUTABLE AS $$
  SELECT coalesce(jsonb_object_agg(key, value), '{}') FROM jsonb_each(overrides) WHERE value NOT IN ('false', 'null', '[]') $$;
UPDATE masters SET overrides = pg_temp.said(overrides) WHERE overrides <> '{}';
UPDATE work SET payload = jsonb_set(payload, '{overrides}', pg_temp.said(payload->'overrides'))
  WHERE jsonb_typeof(payload->'overrides') = 'object';

ALTER TABLE outputs ADD COLUMN part text NOT NULL DEFAULT '';
ALTER TABLE outputs ADD COLUMN is_current boolean NOT NULL DEFAULT false;
UPDATE outputs SET is_current = true WHERE id IN (
  SELECT DISTINCT ON (master_id, preset_id, part) id FROM outputs WHERE is_newest ORDER BY master_id, preset_id, part, finished_at DESC);
ALTER TABLE outputs ADD CONSTRAINT outputs_current CHECK (is_newest OR NOT is_current);
CREATE UNIQUE INDEX outputs_current_by_part ON outputs (master_id, preset_id, part) WHERE is_current;

DELETE FROM measured_outputs;

ALTER TABLE workers ADD COLUMN reads text[] NOT NULL DEFAULT '{}';

ALTER TABLE sets ADD COLUMN remake_by integer;
`;
