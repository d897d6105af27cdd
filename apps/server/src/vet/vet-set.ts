import { HouseRules, StudioDetails, vetSet, type VetView, withOwn } from '@rundle/core';
import { type Database, type SetRow, loadMasters, vetMaster } from '@rundle/store';
import type { Transaction } from 'sequelize';
import { listPresets } from '../presets/stored';
import { findSet } from '../sets/find';

/**
 * Vets a set as it stands now, without what is still arriving.
 * @throws HttpProblem 404 for a set that is gone
 */
export async function vetSetNow(database: Database, setId: string, presetIds: readonly string[]): Promise<VetView> {
  const set = await findSet(database, setId);
  const rows = await loadMasters(database, set.id);
  const groups = vetSet({
    setTitle: set.title,
    masters: rows.filter(({ state }) => state !== 'arriving').map(vetMaster),
    presets: await listPresets(database, presetIds),
    house: await houseRulesOf(database, set),
    studio: withOwn(StudioDetails.parse((await database.studio.findByPk(1))?.details ?? {}), StudioDetails.parse(set.rights)),
  });
  return { groups };
}

/** What the receiver of a set demands; null where none is chosen, or it has been deleted. */
export async function houseRulesOf(
  { houseRules }: Database,
  { houseRulesId }: SetRow,
  transaction?: Transaction,
): Promise<HouseRules | null> {
  const where = { id: houseRulesId ?? '', deletedAt: null };
  const row = houseRulesId ? await houseRules.findOne({ where, ...(transaction ? { transaction } : {}) }) : null;
  return row && HouseRules.parse(row.body);
}
