/** The decisions about a master are called what they are, and the newest file at a place is looked up in an index. */
export const overridesAndIndexes = `
ALTER TABLE masters RENAME COLUMN treatment TO overrides;
UPDATE work SET payload = (payload - 'treatment') || jsonb_build_object('overrides', payload->'treatment') WHERE payload ? 'treatment';
CREATE INDEX masters_removed ON masters (removed_at) WHERE removed_at IS NOT NULL;
CREATE INDEX outputs_done_by_place ON outputs (target, folder, file_name, finished_at DESC) WHERE state = 'done';
`;
