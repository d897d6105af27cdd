import { QueryTypes, type Sequelize, type Transaction } from 'sequelize';

/** Any numbers of ours. */
const LOCK = 48_203;
/** Held together by those who make backups: while it is, nothing is deleted that a backup names. */
export const BACKUP_LOCK = 48_204;
/** Held by a backup while it looks at what lies in its place: what would put a finished file there waits. */
export const FILES_STAND_LOCK = 48_205;

/**
 * Keeps two things apart that each look at files and rows: bringing a file in, which many may do together, and deleting files that no
 * row names, which is done alone. Held until the transaction ends.
 */
export async function lockContents(sequelize: Sequelize, transaction: Transaction, how: 'together' | 'alone'): Promise<void> {
  await sequelize.query(`SELECT pg_advisory_xact_lock${how === 'together' ? '_shared' : ''}(${LOCK})`, { transaction });
}

/** Whether nothing that is about to be deleted is in a backup that is being made; then none begins until the transaction ends. */
export async function noBackupUnderWay(sequelize: Sequelize, transaction: Transaction): Promise<boolean> {
  const [row] = await sequelize.query<{ free: boolean }>(`SELECT pg_try_advisory_xact_lock(${BACKUP_LOCK}) AS free`, {
    type: QueryTypes.SELECT,
    transaction,
  });
  return row?.free ?? false;
}
