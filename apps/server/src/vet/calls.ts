import { HouseRules, Id, PresetChoice, StoredHouseRules, StudioDetails, vetSet, VetView } from '@rundle/core';
import { type Database, type HouseRulesRow, type SetRow, vetMaster } from '@rundle/store';
import * as z from 'zod';
import type { Api } from '../http/api';
import { notFound } from '../http/problem';
import { inSet } from '../masters/marks';
import { listPresets } from '../presets/calls';
import type { Services } from '../services';
import { findSet, SetParams } from '../sets/find';

export function addVetCalls(api: Api, { database }: Services): void {
  const { masters, houseRules, studio } = database;

  const Choice = PresetChoice.extend({ presetIds: z.array(Id).max(100) });
  api.add(
    {
      ...{ method: 'post', path: '/api/sets/{setId}/vet', params: SetParams, body: Choice, answer: VetView },
      summary: 'What would go wrong with these presets, worst first',
    },
    async ({ params, body }) => {
      const set = await findSet(database, params.setId);
      const rows = await masters.findAll({ where: inSet(set.id), order: [['position', 'ASC']] });
      const groups = vetSet({
        setTitle: set.title,
        masters: rows.filter(({ state }) => state !== 'arriving').map(vetMaster),
        presets: await listPresets(database, body.presetIds),
        house: await houseRulesOf(database, set),
        studio: StudioDetails.parse((await studio.findByPk(1))?.details ?? {}),
      });
      return { groups };
    },
  );

  const RulesParams = z.object({ houseRulesId: Id });
  const path = '/api/house-rules';
  api.add({ method: 'get', path, summary: 'House rules of all receivers', answer: z.array(StoredHouseRules) }, async () =>
    (await houseRules.findAll({ where: { deletedAt: null }, order: [['createdAt', 'ASC']] })).map(view),
  );

  api.add(
    { method: 'post', path, summary: 'Writes house rules down', body: HouseRules, answer: StoredHouseRules, status: 201 },
    async ({ body }) => view(await houseRules.create({ body })),
  );

  api.add(
    {
      ...{ method: 'put', path: `${path}/{houseRulesId}`, params: RulesParams, body: HouseRules, answer: StoredHouseRules },
      summary: 'Changes house rules',
    },
    async ({ params, body }) => view(await (await find(params.houseRulesId)).update({ body })),
  );

  api.add(
    { method: 'delete', path: `${path}/{houseRulesId}`, params: RulesParams, summary: 'Deletes house rules; sets that had them have none' },
    async ({ params }) => {
      await (await find(params.houseRulesId)).update({ deletedAt: new Date() });
    },
  );

  async function find(id: string): Promise<HouseRulesRow> {
    const row = await houseRules.findOne({ where: { id, deletedAt: null } });
    if (!row) throw notFound('house rules');
    return row;
  }
}

const view = ({ id, body }: HouseRulesRow): StoredHouseRules => ({ id, rules: HouseRules.parse(body) });

/** What the receiver of a set demands; null where none is chosen, or it has been deleted. */
export async function houseRulesOf({ houseRules }: Database, { houseRulesId }: SetRow): Promise<HouseRules | null> {
  const row = houseRulesId ? await houseRules.findOne({ where: { id: houseRulesId, deletedAt: null } }) : null;
  return row && HouseRules.parse(row.body);
}
