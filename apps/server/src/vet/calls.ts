import { HouseRules, Id, PresetChoice, StoredHouseRules, VetView } from '@rundle/core';
import type { HouseRulesRow } from '@rundle/store';
import * as z from 'zod';
import type { Api } from '../http/api';
import { notFound } from '../http/problem';
import type { Services } from '../services';
import { SetParams } from '../sets/find';

export function addVetCalls(api: Api, { database, threads }: Services): void {
  const { houseRules } = database;

  const Choice = PresetChoice.extend({ presetIds: z.array(Id).max(100) });
  api.add(
    {
      ...{ method: 'post', path: '/api/sets/{setId}/vet', params: SetParams, body: Choice, answer: VetView },
      summary: 'What would go wrong with these presets, worst first',
    },
    ({ params, body }) => threads.ask({ kind: 'vet', setId: params.setId, presetIds: body.presetIds }),
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
