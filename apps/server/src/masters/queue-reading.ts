import { addJobs, type Database, type MasterRow, notify } from '@rundle/store';
import type { Transaction } from 'sequelize';

/** The pictures of a set that are not in its bin. */
export const inSet = (setId: string) => ({ setId, removedAt: null });

/** So many pictures of a set, a screenful, are read before the many of another. */
export const SCREENFUL = 24;

/**
 * Asks the workers to read some masters, which have been written down as arriving, and tells the pages of their set that these
 * are on their way.
 */
export async function queueReading(
  { sequelize, masters }: Database,
  setId: string,
  rows: readonly MasterRow[],
  transaction: Transaction,
): Promise<void> {
  if (rows.length === 0) return;
  const arriving = await masters.count({ where: { ...inSet(setId), state: 'arriving' }, transaction });
  await addJobs(
    sequelize,
    transaction,
    'read-master',
    rows.map(({ id }) => ({ masterId: id })),
    { first: Math.max(0, SCREENFUL - (arriving - rows.length)) },
  );
  await notify(sequelize, { about: 'masters', setId, ids: rows.map(({ id }) => id) }, transaction);
}
