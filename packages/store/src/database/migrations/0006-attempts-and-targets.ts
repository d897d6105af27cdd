import { readdir, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { QueryTypes, type Sequelize, type Transaction } from 'sequelize';

/**
 * Work with its attempts in a table of our own, workers that are told by a lock, and outputs that know where they stand and what
 * their content is.
 */
export const attemptsAndTargets = `
CREATE SEQUENCE attempts;
DROP TABLE worker_beats;
CREATE TABLE workers (
  id text PRIMARY KEY,
  number integer NOT NULL GENERATED ALWAYS AS IDENTITY UNIQUE,
  pool_id text,
  host text NOT NULL,
  pid integer NOT NULL,
  beat_at timestamptz NOT NULL DEFAULT now(),
  stalled_at timestamptz
);
CREATE TABLE work (
  key text PRIMARY KEY,
  name text NOT NULL CHECK (name IN ('read-master', 'check-watermark', 'render-master')),
  payload jsonb NOT NULL,
  priority integer NOT NULL,
  run_id uuid REFERENCES runs ON DELETE CASCADE,
  master_id uuid REFERENCES masters ON DELETE CASCADE,
  watermark_id uuid REFERENCES watermarks ON DELETE CASCADE,
  attempt bigint NOT NULL DEFAULT 0,
  worker_id text,
  deaths integer NOT NULL DEFAULT 0,
  interruptions integer NOT NULL DEFAULT 0,
  added_at timestamptz NOT NULL DEFAULT now()
);
CREATE INDEX work_by_worker ON work (worker_id);
CREATE INDEX work_by_run ON work (run_id);
CREATE INDEX work_by_master ON work (master_id);
ALTER TABLE sets ADD COLUMN target text;
ALTER TABLE sets ADD COLUMN rights jsonb NOT NULL DEFAULT '{}';
ALTER TABLE runs ADD COLUMN studio jsonb;
ALTER TABLE runs ADD COLUMN house jsonb;
ALTER TABLE runs ADD COLUMN cancel_asked_at timestamptz;
CREATE INDEX runs_by_set ON runs (set_id, started_at);
ALTER TABLE masters ADD COLUMN stars_set boolean NOT NULL DEFAULT false;
UPDATE masters SET stars_set = facts IS NOT NULL;
ALTER TABLE outputs ADD COLUMN target text NOT NULL DEFAULT '';
ALTER TABLE outputs ADD COLUMN content char(64);
ALTER TABLE outputs ADD COLUMN attempt bigint NOT NULL DEFAULT 0;
ALTER TABLE outputs ADD COLUMN engine integer;
CREATE INDEX outputs_by_place ON outputs (target, folder, file_name);
CREATE TABLE arrivals (
  upload_id text PRIMARY KEY,
  answer jsonb NOT NULL,
  arrived_at timestamptz NOT NULL DEFAULT now()
);
INSERT INTO work (key, name, payload, priority, run_id, master_id)
  SELECT DISTINCT 'render-master:' || o.run_id || ':' || o.master_id, 'render-master',
    jsonb_build_object('runId', o.run_id, 'masterId', o.master_id), 10, o.run_id, o.master_id
  FROM outputs o JOIN runs r ON r.id = o.run_id WHERE r.state = 'running' AND o.state IN ('planned', 'running');
INSERT INTO work (key, name, payload, priority, master_id)
  SELECT 'read-master:' || id, 'read-master', jsonb_build_object('masterId', id), 0, id FROM masters WHERE state = 'arriving';
INSERT INTO work (key, name, payload, priority, watermark_id)
  SELECT 'check-watermark:' || id, 'check-watermark', jsonb_build_object('watermarkId', id), 0, id FROM watermarks WHERE state = 'checking';
`;

/** How titles became names of folders before this migration; what was done then must be found again, so this stays as it was. */
function folderOf(title: string): string {
  const cleaned = title
    .normalize('NFC')
    .replace(/[\u0000-\u001f\u007f<>:"/\\|?*]/g, '_')
    .replace(/^[\s.-]+|[\s.]+$/g, '');
  const named = /^(?:con|prn|aux|nul|com[0-9]|lpt[0-9])(?:\.|$)/i.test(cleaned) ? `_${cleaned}` : cleaned;
  const letters = [...named];
  while (Buffer.byteLength(letters.join('')) > 200) letters.pop();
  return letters.join('').replace(/[\s.]+$/, '') || 'picture';
}

/**
 * Gives outputs of earlier releases the folder in which they stand. It was made from the title of their set at that time, so
 * those of a renamed set are looked for in every folder that bears its id.
 * @param outputs folder in which the targets of all sets lie
 */
export async function findTargets(sequelize: Sequelize, transaction: Transaction, outputs: string): Promise<void> {
  const sets = await sequelize.query<{ id: string; title: string }>(
    `SELECT id, title FROM sets s WHERE EXISTS (SELECT 1 FROM runs r WHERE r.set_id = s.id)`,
    { type: QueryTypes.SELECT, transaction },
  );
  const folders = await readdir(outputs).catch((): string[] => []);
  for (const { id, title } of sets) {
    const mark = id.slice(0, 8);
    const named = `${folderOf(title)} ${mark}`;
    const others = folders.filter((name) => name.endsWith(` ${mark}`) && name !== named);
    // Where nothing has been made under the present title, work goes on where the outputs are.
    const target = folders.includes(named) || others.length === 0 ? named : others[0]!;
    const about = { transaction, replacements: { id, target } };
    await sequelize.query('UPDATE sets SET target = :target WHERE id = :id', about);
    await sequelize.query('UPDATE outputs SET target = :target WHERE run_id IN (SELECT id FROM runs WHERE set_id = :id)', about);
    if (others.length === 0) continue;
    const rows = await sequelize.query<{ id: string; folder: string; fileName: string; bytes: number }>(
      `SELECT o.id, o.folder, o.file_name AS "fileName", o.bytes FROM outputs o JOIN runs r ON r.id = o.run_id
       WHERE r.set_id = :id AND o.state = 'done'`,
      { type: QueryTypes.SELECT, ...about },
    );
    const holds = async (folder: string, row: (typeof rows)[number]) =>
      (await stat(join(outputs, folder, row.folder, row.fileName)).catch(() => null))?.size === row.bytes;
    for (const row of rows) {
      if (await holds(target, row)) continue;
      for (const other of others)
        if (await holds(other, row))
          await sequelize.query('UPDATE outputs SET target = :other WHERE id = :row', {
            transaction,
            replacements: { other, row: row.id },
          });
    }
  }
}
