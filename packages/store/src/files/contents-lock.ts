import type { Sequelize, Transaction } from 'sequelize';

/** Any number of ours. */
const LOCK = 48_203;

/**
 * Keeps two things apart that each look at files and rows: bringing a file in, which many may do together, and deleting files that no
 * row names, which is done alone. Held until the transaction ends.
 */
export async function lockContents(sequelize: Sequelize, transaction: Transaction, how: 'together' | 'alone'): Promise<void> {
  await sequelize.query(`SELECT pg_advisory_xact_lock${how === 'together' ? '_shared' : ''}(${LOCK})`, { transaction });
}
