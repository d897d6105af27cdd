import type { StoredHouseRules } from '@rundle/core';
import { HouseRules } from '@rundle/core';
import { type HouseRulesRow, notifyTopic } from '@rundle/store';
import type { Handlers } from '../http/handlers';
import { notFound } from '../http/problem';
import type { Services } from '../services';

export function vetHandlers({ database, threads }: Services) {
  const { houseRules, sequelize } = database;

  return {
    vetSet: ({ setId, body }) => threads.ask({ kind: 'vet', setId, presetIds: body.presetIds }),

    listHouseRules: async () => (await houseRules.findAll({ where: { deletedAt: null }, order: [['createdAt', 'ASC']] })).map(view),

    createHouseRules: async ({ body }) => {
      const row = await houseRules.create({ body });
      await notifyTopic(sequelize, 'house-rules');
      return view(row);
    },

    changeHouseRules: async ({ houseRulesId, body }) => {
      const row = await (await find(houseRulesId)).update({ body });
      await notifyTopic(sequelize, 'house-rules');
      return view(row);
    },

    deleteHouseRules: async ({ houseRulesId }) => {
      await (await find(houseRulesId)).update({ deletedAt: new Date() });
      await notifyTopic(sequelize, 'house-rules');
    },
  } satisfies Partial<Handlers>;

  async function find(id: string): Promise<HouseRulesRow> {
    const row = await houseRules.findOne({ where: { id, deletedAt: null } });
    if (!row) throw notFound('house rules');
    return row;
  }
}

const view = ({ id, body }: HouseRulesRow): StoredHouseRules => ({ id, rules: HouseRules.parse(body) });
