import { presetView } from '@rundle/store';
import type { Handlers } from '../http/handlers';
import type { Services } from '../services';
import { createPreset, currentView, findPreset, listPresets } from './stored';

export function presetHandlers({ database }: Services) {
  return {
    listPresets: () => listPresets(database),

    createPreset: async ({ body }) => {
      return database.sequelize.transaction((transaction) => createPreset(database, body, transaction));
    },

    getPreset: async ({ presetId }) => currentView(database, await findPreset(database, presetId)),

    changePreset: async ({ presetId, body }) => {
      return database.sequelize.transaction(async (transaction) => {
        const row = await findPreset(database, presetId, transaction);
        await row.update({ version: row.version + 1, updatedAt: new Date() }, { transaction });
        const version = await database.presetVersions.create({ presetId: row.id, version: row.version, body }, { transaction });
        return presetView(row, version);
      });
    },

    deletePreset: async ({ presetId }) => {
      await (await findPreset(database, presetId)).update({ deletedAt: new Date() });
    },
  } satisfies Partial<Handlers>;
}
