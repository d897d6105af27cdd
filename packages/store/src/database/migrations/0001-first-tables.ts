/** The tables of the first release. Never edited after a release; what comes later gets a migration of its own. */
export const firstTables = `
CREATE TABLE sets (
  id uuid PRIMARY KEY,
  title text NOT NULL,
  created_at timestamptz NOT NULL DEFAULT now()
);
CREATE TABLE masters (
  id uuid PRIMARY KEY,
  set_id uuid NOT NULL REFERENCES sets ON DELETE CASCADE,
  position integer NOT NULL,
  file_name text NOT NULL,
  sha256 char(64) NOT NULL,
  bytes bigint NOT NULL,
  state text NOT NULL CHECK (state IN ('arriving', 'ready', 'failed')),
  facts jsonb,
  problem jsonb
);
CREATE INDEX masters_by_set ON masters (set_id, position);
CREATE TABLE presets (
  id uuid PRIMARY KEY,
  version integer NOT NULL,
  position integer NOT NULL,
  updated_at timestamptz NOT NULL DEFAULT now(),
  deleted_at timestamptz
);
CREATE TABLE preset_versions (
  preset_id uuid NOT NULL REFERENCES presets,
  version integer NOT NULL,
  body jsonb NOT NULL,
  PRIMARY KEY (preset_id, version)
);
CREATE TABLE runs (
  id uuid PRIMARY KEY,
  set_id uuid NOT NULL REFERENCES sets ON DELETE CASCADE,
  state text NOT NULL CHECK (state IN ('running', 'done', 'cancelled')),
  preset_ids jsonb NOT NULL,
  started_at timestamptz NOT NULL DEFAULT now(),
  finished_at timestamptz
);
CREATE UNIQUE INDEX one_running_run_per_set ON runs (set_id) WHERE state = 'running';
CREATE TABLE outputs (
  id uuid PRIMARY KEY,
  run_id uuid NOT NULL REFERENCES runs ON DELETE CASCADE,
  master_id uuid NOT NULL REFERENCES masters ON DELETE CASCADE,
  preset_id uuid NOT NULL,
  preset_version integer NOT NULL,
  position integer NOT NULL,
  state text NOT NULL CHECK (state IN ('planned', 'running', 'done', 'failed', 'skipped', 'cancelled')),
  folder text NOT NULL,
  file_name text NOT NULL,
  width integer NOT NULL,
  height integer NOT NULL,
  expected_bytes integer NOT NULL,
  replaces boolean NOT NULL,
  bytes integer,
  quality integer,
  warnings jsonb NOT NULL,
  error jsonb,
  finished_at timestamptz,
  FOREIGN KEY (preset_id, preset_version) REFERENCES preset_versions
);
CREATE INDEX outputs_by_run ON outputs (run_id, position);
CREATE INDEX outputs_by_master ON outputs (master_id, preset_id, finished_at DESC);
CREATE TABLE studio (
  id integer PRIMARY KEY CHECK (id = 1),
  details jsonb NOT NULL
);
CREATE TABLE worker_beats (
  worker_id text PRIMARY KEY,
  beat_at timestamptz NOT NULL DEFAULT now()
);
`;
