/**
 * Folders that are watched, and what became of each file that came to rest there: by its path and content. A file without a content lay there
 * when the order was made and has not been read, or could not come in. Sets know which order and day they are for.
 */
export const standingOrders = `
CREATE TABLE standing_orders (
  id uuid PRIMARY KEY,
  title text NOT NULL,
  folder text NOT NULL,
  deeper boolean NOT NULL,
  preset_ids jsonb NOT NULL,
  place jsonb NOT NULL,
  is_on boolean NOT NULL DEFAULT true,
  problem jsonb,
  created_at timestamptz NOT NULL DEFAULT now(),
  deleted_at timestamptz
);
CREATE TABLE standing_order_files (
  id bigserial PRIMARY KEY,
  order_id uuid NOT NULL REFERENCES standing_orders,
  path text NOT NULL,
  bytes bigint NOT NULL,
  mtime_ms double precision NOT NULL,
  sha256 text,
  fate text NOT NULL CHECK (fate IN ('left', 'own', 'taken', 'refused')),
  master_id uuid REFERENCES masters ON DELETE SET NULL,
  problem jsonb,
  seen_at timestamptz NOT NULL DEFAULT now(),
  settled_at timestamptz,
  CONSTRAINT taken_by_content CHECK (fate NOT IN ('taken', 'own') OR sha256 IS NOT NULL),
  CONSTRAINT refused_with_reason CHECK ((fate = 'refused') <= (problem IS NOT NULL))
);
CREATE UNIQUE INDEX standing_order_files_content ON standing_order_files (order_id, path, coalesce(sha256, ''));
CREATE INDEX standing_order_files_seen ON standing_order_files (order_id, seen_at DESC);
CREATE INDEX standing_order_files_open ON standing_order_files (order_id) WHERE fate = 'taken' AND settled_at IS NULL;
CREATE INDEX standing_order_files_master ON standing_order_files (master_id);
ALTER TABLE sets ADD COLUMN standing_order_id uuid REFERENCES standing_orders;
ALTER TABLE sets ADD COLUMN standing_day date;
CREATE INDEX sets_of_orders ON sets (standing_order_id, standing_day) WHERE standing_order_id IS NOT NULL;
CREATE INDEX outputs_content ON outputs (content) WHERE content IS NOT NULL;
`;
