/** An archive and a bin for sets; masters that stay where they are on the machine, and are hashed when they are read. */
export const shelvesAndMachineFolders = `
ALTER TABLE sets ADD COLUMN archived_at timestamptz;
ALTER TABLE sets ADD COLUMN deleted_at timestamptz;
ALTER TABLE masters ADD COLUMN source_path text;
ALTER TABLE masters ADD COLUMN source_mtime_ms float8;
ALTER TABLE masters ALTER COLUMN sha256 DROP NOT NULL;
ALTER TABLE masters ADD CONSTRAINT somewhere CHECK (sha256 IS NOT NULL OR source_path IS NOT NULL);
CREATE INDEX masters_by_content ON masters (sha256);
`;
