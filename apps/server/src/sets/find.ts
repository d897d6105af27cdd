import type { Database, MasterRow, SetRow } from '@rundle/store';
import type { Transaction } from 'sequelize';
import { notFound } from '../http/problem';

/**
 * @param transaction in which the set's row is locked
 * @throws HttpProblem 404
 */
export async function findSet({ sets }: Database, setId: string, transaction?: Transaction): Promise<SetRow> {
  const set = await sets.findByPk(setId, transaction ? { transaction, lock: true } : {});
  if (!set) throw notFound('set');
  return set;
}

/** @throws HttpProblem 404 */
export async function findMaster({ masters }: Database, masterId: string): Promise<MasterRow> {
  const master = await masters.findByPk(masterId);
  if (!master) throw notFound('picture');
  return master;
}
