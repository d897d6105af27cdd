import { randomUUID } from 'node:crypto';
import { lookAt, type OutputRow, writeMoves } from '@rundle/store';
import { QueryTypes, type Transaction } from 'sequelize';
import { requestProblem } from '../http/problem';
import { OPEN_STATES } from '../runs/open-runs';
import type { Stores } from '../services';
import { findSet } from '../sets/find';

/** A file of an output that lies on the disk as it was made. */
export interface RemovableOutput extends Pick<
  OutputRow,
  | 'id'
  | 'masterId'
  | 'presetId'
  | 'presetVersion'
  | 'part'
  | 'target'
  | 'folder'
  | 'fileName'
  | 'bytes'
  | 'content'
  | 'mark'
  | 'finishedAt'
  | 'isCurrent'
> {
  setId: string;
}

/** Which ones: of all sets or of one, of its pictures that were taken out, of one preset, of some pictures. */
interface WhichOutputs {
  setId?: string;
  presetId?: string;
  onlyRemoved?: boolean;
  masterIds?: readonly string[];
}

/** What still lies on the disk, as it was made. To be asked of a thread: files whose mark is another are read. */
export async function removableOutputs(
  { database: { sequelize }, files }: Stores,
  { setId, presetId, onlyRemoved, masterIds }: WhichOutputs,
): Promise<RemovableOutput[]> {
  const conditions = [
    ...(setId ? ['m.set_id = :setId'] : []),
    ...(presetId ? ['o.preset_id = :presetId'] : []),
    ...(onlyRemoved ? ['m.removed_at IS NOT NULL'] : []),
    ...(masterIds ? ['m.id IN (SELECT jsonb_array_elements_text(:masterIds::jsonb)::uuid)'] : []),
  ];
  const rows = await sequelize.query<RemovableOutput>(
    `SELECT o.id, m.set_id AS "setId", o.master_id AS "masterId", o.preset_id AS "presetId", o.preset_version AS "presetVersion", o.part, o.target,
       o.folder, o.file_name AS "fileName", o.bytes, o.content, o.mark, o.finished_at AS "finishedAt", o.is_current AS "isCurrent"
     FROM outputs o JOIN masters m ON m.id = o.master_id
     WHERE ${[...conditions, 'o.is_newest'].join(' AND ')}
       AND NOT EXISTS (SELECT FROM moves w WHERE w.output_id = o.id AND w.state <> 'settled')
     ORDER BY o.folder, o.file_name`,
    { type: QueryTypes.SELECT, replacements: { setId, presetId, masterIds: JSON.stringify(masterIds ?? []) } },
  );
  const states = await lookAt(sequelize, files.outputs, rows);
  return rows.filter(({ id }) => states.get(id) === 'stands');
}

/**
 * Has files of a set taken away, a moment later, by a worker; what somebody has changed until then stays.
 * @throws HttpProblem 409 while a run or a delivery of the set is under way
 */
export async function removeFiles(
  { database }: Stores,
  setId: string,
  rows: readonly RemovableOutput[],
  transaction: Transaction,
): Promise<void> {
  const { sequelize, runs, deliveries, masters } = database;
  await findSet(database, setId, transaction);
  if (await runs.count({ where: { setId, state: OPEN_STATES }, transaction }))
    throw requestProblem('run-under-way', 'A run of this set is under way. Wait for its end or cancel it, then take the files away.');
  if (await deliveries.count({ where: { setId, state: ['checking', 'sending'] }, transaction }))
    throw requestProblem('run-under-way', 'A delivery of this set is under way. Wait for its end or cancel it, then take the files away.');
  const ids = [...new Set(rows.map(({ masterId }) => masterId))];
  const there = new Set(
    (await masters.findAll({ where: { id: ids, removedAt: null }, attributes: ['id'], transaction })).map(({ id }) => id),
  );
  const moves = rows.map(({ id, masterId, presetId, part, target, folder, fileName, isCurrent }) => ({
    file: { outputId: id, masterId, presetId, part, target, folder, fileName, isCurrent, isInSet: there.has(masterId) },
    to: null,
    when: 'first' as const,
    afterSelf: false,
  }));
  await writeMoves(sequelize, { journal: randomUUID(), runId: null, setId }, moves, transaction);
}

/** How many files, and how heavy. */
export const weighed = (rows: readonly Pick<RemovableOutput, 'bytes'>[]): { files: number; bytes: number } => ({
  files: rows.length,
  bytes: rows.reduce((sum, { bytes }) => sum + (bytes ?? 0), 0),
});
