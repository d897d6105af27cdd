/**
 * Presets stand in groups, some of them first; a version tells when it was saved; some presets are chosen together; watermarks have a typeface,
 * an edge and a variant for bright ground.
 */
export const libraryAndMarks = `
ALTER TABLE presets ADD COLUMN group_name text NOT NULL DEFAULT '';
ALTER TABLE presets ADD COLUMN favourite boolean NOT NULL DEFAULT false;
ALTER TABLE preset_versions ADD COLUMN made_at timestamptz;
UPDATE preset_versions SET made_at = presets.updated_at FROM presets
  WHERE presets.id = preset_versions.preset_id AND presets.version = preset_versions.version;

CREATE TABLE bundles (
  id uuid PRIMARY KEY,
  title text NOT NULL,
  preset_ids jsonb NOT NULL,
  created_at timestamptz NOT NULL DEFAULT now()
);

ALTER TABLE watermarks ADD COLUMN typeface text NOT NULL DEFAULT 'sans';
ALTER TABLE watermarks ADD COLUMN edge text NOT NULL DEFAULT 'none';
ALTER TABLE watermarks ADD COLUMN adapt boolean NOT NULL DEFAULT false;
ALTER TABLE watermarks ADD COLUMN dark bytea;
`;
