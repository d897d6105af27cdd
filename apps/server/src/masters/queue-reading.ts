import { addJobs, type Database, type MasterRow, notify } from '@rundle/store';
import type { Transaction } from 'sequelize';

/** Asks the workers to read some masters, and tells the pages of their set that these are on their way. */
export async function queueReading(
  { sequelize }: Database,
  setId: string,
  rows: readonly MasterRow[],
  transaction: Transaction,
): Promise<void> {
  if (rows.length === 0) return;
  const ids = rows.map(({ id }) => id);
  await addJobs(
    sequelize,
    transaction,
    'read-master',
    ids.map((masterId) => ({ masterId })),
  );
  await notify(sequelize, { about: 'masters', setId, ids }, transaction);
}
