import { randomUUID } from 'node:crypto';
import { joinPath, type RemovedOutputs } from '@rundle/core';
import { lookAt, type OutputRow, writeMoves } from '@rundle/store';
import { QueryTypes } from 'sequelize';
import { requestProblem } from '../http/problem';
import { OPEN_STATES } from '../runs/open-runs';
import type { Stores } from '../services';
import { findSet } from '../sets/find';

type RemovedRow = Pick<
  OutputRow,
  'id' | 'masterId' | 'presetId' | 'part' | 'target' | 'folder' | 'fileName' | 'bytes' | 'content' | 'mark' | 'finishedAt' | 'isCurrent'
>;

/** Files that are named as examples. */
const EXAMPLES = 3;

/** What still lies on the disk, as it was made, of pictures that were taken out of a set. To be asked of a thread. */
export async function removedOutputs(stores: Stores, setId: string): Promise<RemovedOutputs> {
  return toldOf(await rowsOf(stores, setId));
}

/**
 * Takes these files away; what somebody has changed stays.
 * @returns what is taken away, a moment later, by a worker
 * @throws HttpProblem 409 while a run of the set is under way
 */
export async function takeAwayRemoved(stores: Stores, setId: string): Promise<RemovedOutputs> {
  const { sequelize, runs } = stores.database;
  const rows = await rowsOf(stores, setId);
  await sequelize.transaction(async (transaction) => {
    await findSet(stores.database, setId, transaction);
    if (await runs.count({ where: { setId, state: OPEN_STATES }, transaction }))
      throw requestProblem('run-under-way', 'A run of this set is under way. Wait for its end or cancel it, then take the files away.');
    const moves = rows.map(({ id, masterId, presetId, part, target, folder, fileName, isCurrent }) => ({
      file: { outputId: id, masterId, presetId, part, target, folder, fileName, isCurrent, isInSet: false },
      to: null,
      when: 'first' as const,
      afterSelf: false,
    }));
    await writeMoves(sequelize, { journal: randomUUID(), runId: null, setId }, moves, transaction);
  });
  return toldOf(rows);
}

async function rowsOf({ database: { sequelize }, files }: Stores, setId: string): Promise<RemovedRow[]> {
  const rows = await sequelize.query<RemovedRow>(
    `SELECT o.id, o.master_id AS "masterId", o.preset_id AS "presetId", o.part, o.target, o.folder, o.file_name AS "fileName", o.bytes, o.content, o.mark,
       o.finished_at AS "finishedAt", o.is_current AS "isCurrent"
     FROM outputs o JOIN masters m ON m.id = o.master_id
     WHERE m.set_id = :setId AND m.removed_at IS NOT NULL AND o.is_newest
       AND NOT EXISTS (SELECT FROM moves w WHERE w.output_id = o.id AND w.state <> 'settled')
     ORDER BY o.folder, o.file_name`,
    { type: QueryTypes.SELECT, replacements: { setId } },
  );
  const states = await lookAt(sequelize, files.outputs, rows);
  return rows.filter(({ id }) => states.get(id) === 'stands');
}

const toldOf = (rows: readonly RemovedRow[]): RemovedOutputs => ({
  files: rows.length,
  pictures: new Set(rows.map(({ masterId }) => masterId)).size,
  bytes: rows.reduce((sum, { bytes }) => sum + (bytes ?? 0), 0),
  examples: rows.slice(0, EXAMPLES).map(({ folder, fileName }) => joinPath(folder, fileName)),
});
