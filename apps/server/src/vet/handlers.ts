import type { StoredHouseRules } from '@rundle/core';
import { HouseRules } from '@rundle/core';
import type { HouseRulesRow } from '@rundle/store';
import type { Handlers } from '../http/handlers';
import { notFound } from '../http/problem';
import type { Services } from '../services';

export function vetHandlers({ database, threads }: Services) {
  const { houseRules } = database;

  return {
    vetSet: ({ setId, body }) => threads.ask({ kind: 'vet', setId, presetIds: body.presetIds }),

    listHouseRules: async () => (await houseRules.findAll({ where: { deletedAt: null }, order: [['createdAt', 'ASC']] })).map(view),

    createHouseRules: async ({ body }) => view(await houseRules.create({ body })),

    changeHouseRules: async ({ houseRulesId, body }) => view(await (await find(houseRulesId)).update({ body })),

    deleteHouseRules: async ({ houseRulesId }) => {
      await (await find(houseRulesId)).update({ deletedAt: new Date() });
    },
  } satisfies Partial<Handlers>;

  async function find(id: string): Promise<HouseRulesRow> {
    const row = await houseRules.findOne({ where: { id, deletedAt: null } });
    if (!row) throw notFound('house rules');
    return row;
  }
}

const view = ({ id, body }: HouseRulesRow): StoredHouseRules => ({ id, rules: HouseRules.parse(body) });
