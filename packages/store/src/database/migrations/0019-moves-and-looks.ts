/**
 * Files are known to be unchanged by their mark (disk, inode, size, times), as it was when they were put in their place; what has none is looked
 * at by its content once.
 *
 * The journal of files that get another name or place, or are taken away: written in the transaction that decides it, carried out by a worker,
 * completed whatever happens on the way. What has been settled stays as long as its run, as the names by which earlier runs knew their files.
 *
 * Copies that were made under further names, before files gave way to their newer selves, are asked about once per set.
 */
export const movesAndLooks = `
ALTER TABLE outputs ADD COLUMN mark text;

CREATE TABLE moves (
  id uuid PRIMARY KEY DEFAULT gen_random_uuid(),
  journal uuid NOT NULL,
  run_id uuid REFERENCES runs ON DELETE CASCADE,
  set_id uuid NOT NULL REFERENCES sets ON DELETE CASCADE,
  output_id uuid NOT NULL REFERENCES outputs ON DELETE CASCADE,
  content text NOT NULL,
  is_current boolean NOT NULL,
  from_target text NOT NULL,
  from_folder text NOT NULL,
  from_name text NOT NULL,
  to_target text,
  to_folder text,
  to_name text,
  stage text NOT NULL CHECK (stage IN ('first', 'last')),
  after_self boolean NOT NULL DEFAULT false,
  state text NOT NULL DEFAULT 'open' CHECK (state IN ('open', 'taken', 'settled')),
  written_at timestamptz NOT NULL DEFAULT now()
);
CREATE INDEX moves_by_journal ON moves (journal);
CREATE INDEX moves_by_run ON moves (run_id) WHERE state <> 'settled';
CREATE INDEX moves_by_output ON moves (output_id);

ALTER TABLE work ADD COLUMN journal uuid;
ALTER TABLE work DROP CONSTRAINT work_name_check;
ALTER TABLE work ADD CONSTRAINT work_name_check CHECK (name IN ('read-master', 'check-watermark', 'render-master', 'weigh-master', 'move-outputs'));

ALTER TABLE sets ADD COLUMN copies text CHECK (copies IN ('go', 'stay'));
ALTER TABLE sets ADD COLUMN keeps_earlier boolean NOT NULL DEFAULT false;
`;
