import { Id } from '@rundle/core';
import type { Database, MasterRow, SetRow } from '@rundle/store';
import * as z from 'zod';
import { notFound } from '../http/problem';

export const SetParams = z.object({ setId: Id });
export const MasterParams = z.object({ masterId: Id });

/** @throws HttpProblem 404 */
export async function findSet({ sets }: Database, setId: string): Promise<SetRow> {
  const set = await sets.findByPk(setId);
  if (!set) throw notFound('set');
  return set;
}

/** @throws HttpProblem 404 */
export async function findMaster({ masters }: Database, masterId: string): Promise<MasterRow> {
  const master = await masters.findByPk(masterId);
  if (!master) throw notFound('picture');
  return master;
}
