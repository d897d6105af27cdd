import type { Twin } from '@rundle/core';
import { adoptOutputs, type Database, lockContents, type MasterRow, notify, type StoredFile } from '@rundle/store';
import { Op, type Transaction } from 'sequelize';
import { notFound } from '../http/problem';
import { inSet, queueReading } from './queue-reading';

/** A stored file on its way into a set; `modified`: its own time in ms since 1970, where that is known. */
export type Arrived = StoredFile & { modified: number | null };

/**
 * Puts stored files at the end of a set and asks the workers to read them.
 * @param transaction in which it happens, with all that belongs to it
 * @param arrival where an upload belongs among others: several are sent at a time, and a light one overtakes a heavy one
 * @param twins what to do with a file whose content is in the set already: `ask` leaves it aside and says so
 */
export async function addMasters(
  database: Database,
  setId: string,
  files: readonly Arrived[],
  twins: 'ask' | 'add',
  transaction: Transaction,
  arrival: number | null = null,
): Promise<{ rows: MasterRow[]; twins: Twin[] }> {
  const { masters, sets } = database;
  await lockContents(database.sequelize, transaction, 'together');
  // The set's row is the lock that keeps two uploads from taking the same positions, or being the same picture.
  if (!(await sets.findByPk(setId, { transaction, lock: true }))) throw notFound('set');
  const known =
    twins === 'ask' ? await masters.findAll({ where: { ...inSet(setId), sha256: files.map(({ sha256 }) => sha256) }, transaction }) : [];
  const twinOf = (sha256: string) => known.find((master) => master.sha256 === sha256)?.fileName;
  const fresh = files.filter(({ sha256 }) => twinOf(sha256) === undefined);
  const first = await makeRoom(database, setId, fresh.length, arrival, transaction);
  const rows = await masters.bulkCreate(
    fresh.map(({ fileName, sha256, bytes, modified }, index) => ({
      fileName,
      sha256,
      bytes,
      sourceMtimeMs: modified,
      setId,
      position: first + index,
      arrival,
      state: 'arriving' as const,
      facts: null,
      problem: null,
    })),
    { transaction },
  );
  await adoptOutputs(database.sequelize, setId, transaction);
  await queueReading(database, setId, rows, transaction);
  const left = files.flatMap(({ fileName, sha256 }) => {
    const of = twinOf(sha256);
    return of === undefined ? [] : [{ fileName, sha256, of }];
  });
  return { rows, twins: left };
}

/** The first of so many free positions: at the end, or before what has overtaken this upload. */
async function makeRoom(
  { sequelize, masters }: Database,
  setId: string,
  count: number,
  arrival: number | null,
  transaction: Transaction,
): Promise<number> {
  const least = (where: object) => masters.min<number | null, MasterRow>('position', { where: { setId, ...where }, transaction });
  const before = arrival === null || count === 0 ? null : await least({ arrival: { [Op.gt]: arrival } });
  if (before === null) {
    const last = await masters.max<number | null, MasterRow>('position', { where: { setId }, transaction });
    return (last ?? -1) + 1;
  }
  await masters.increment('position', { by: count, where: { setId, position: { [Op.gte]: before } }, transaction });
  await notify(sequelize, { about: 'order', setId, ids: [setId] }, transaction);
  return before;
}
