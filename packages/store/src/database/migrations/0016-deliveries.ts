/**
 * Who is sent pictures, what was delivered, and what is on record to lie at a receiver. A delivery keeps where its files were and what they held
 * when it was begun: it goes out as that, or not at all. What was seen of a file, by its content, is kept, since it has to be decoded for that.
 */
export const deliveries = `
CREATE TABLE receivers (
  id uuid PRIMARY KEY,
  body jsonb NOT NULL,
  secret bytea,
  stand_in boolean NOT NULL DEFAULT false,
  created_at timestamptz NOT NULL DEFAULT now(),
  deleted_at timestamptz
);
CREATE TABLE deliveries (
  id uuid PRIMARY KEY,
  set_id uuid NOT NULL REFERENCES sets ON DELETE CASCADE,
  wish jsonb NOT NULL,
  receiver text NOT NULL,
  place text,
  state text NOT NULL CHECK (state IN ('checking', 'held', 'sending', 'done', 'failed', 'cancelled')),
  house jsonb,
  decision text CHECK (decision IN ('all', 'without')),
  findings jsonb NOT NULL DEFAULT '[]',
  messages jsonb NOT NULL DEFAULT '[]',
  removed integer NOT NULL DEFAULT 0,
  problem jsonb,
  log jsonb NOT NULL DEFAULT '[]',
  created_at timestamptz NOT NULL DEFAULT now(),
  finished_at timestamptz,
  cancel_asked_at timestamptz,
  CONSTRAINT over_at_a_time CHECK ((state IN ('done', 'failed', 'cancelled')) = (finished_at IS NOT NULL)),
  CONSTRAINT failed_with_reason CHECK ((state = 'failed') = (problem IS NOT NULL))
);
CREATE INDEX deliveries_of_sets ON deliveries (set_id, created_at DESC);
CREATE INDEX deliveries_open ON deliveries (created_at) WHERE state IN ('checking', 'sending');
CREATE TABLE delivery_files (
  delivery_id uuid NOT NULL REFERENCES deliveries ON DELETE CASCADE,
  path text NOT NULL,
  position integer NOT NULL,
  output_id uuid,
  target text,
  folder text,
  file_name text,
  bytes bigint NOT NULL,
  sha256 text NOT NULL,
  state text NOT NULL DEFAULT 'waiting' CHECK (state IN ('waiting', 'sent', 'kept', 'left', 'failed')),
  problem jsonb,
  PRIMARY KEY (delivery_id, path),
  CONSTRAINT failed_with_reason CHECK (state <> 'failed' OR problem IS NOT NULL)
);
CREATE TABLE delivered (
  place text NOT NULL,
  path text NOT NULL,
  sha256 text NOT NULL,
  bytes bigint NOT NULL,
  delivered_at timestamptz NOT NULL DEFAULT now(),
  PRIMARY KEY (place, path)
);
CREATE TABLE seen_files (
  sha256 text PRIMARY KEY,
  seen jsonb NOT NULL,
  placeholder text
);
`;
