import { isDeepStrictEqual } from 'node:util';
import type { StoredPreset } from '@rundle/core';
import { notifyTopic, presetView } from '@rundle/store';
import type { Handlers } from '../http/handlers';
import { type HttpProblem, requestProblem } from '../http/problem';
import type { Services } from '../services';
import { createPreset, currentView, findPreset, listPresets } from './stored';
import { fromFileHandlers } from './from-file';
import { libraryHandlers } from './library';
import { travelHandlers } from './travel';

export function presetHandlers(services: Services) {
  const { database } = services;
  return {
    ...libraryHandlers(services),
    ...travelHandlers(services),
    ...fromFileHandlers(services),
    listPresets: () => listPresets(database),

    createPreset: async ({ body }) => {
      return database.sequelize.transaction(async (transaction) => {
        await notifyTopic(database.sequelize, 'presets', transaction);
        return createPreset(database, body, transaction);
      });
    },

    getPreset: async ({ presetId }) => currentView(database, await findPreset(database, presetId)),

    changePreset: async ({ presetId, body, version: from }) => {
      return database.sequelize.transaction(async (transaction) => {
        const row = await findPreset(database, presetId, transaction);
        if (from !== null && from !== row.version) {
          const now = await currentView(database, row, transaction);
          // A client whose answer was lost sends the same save again: it has been stored already.
          if (from === row.version - 1 && isDeepStrictEqual(now.preset, body)) return now;
          throw changedMeanwhile(now, from);
        }
        await row.update({ version: row.version + 1, updatedAt: new Date() }, { transaction });
        const version = await database.presetVersions.create({ presetId: row.id, version: row.version, body }, { transaction });
        await notifyTopic(database.sequelize, 'presets', transaction);
        return presetView(row, version);
      });
    },

    deletePreset: async ({ presetId }) => {
      await (await findPreset(database, presetId)).update({ deletedAt: new Date() });
      await notifyTopic(database.sequelize, 'presets');
    },
  } satisfies Partial<Handlers>;
}

const changedMeanwhile = ({ version, preset: { title } }: StoredPreset, from: number): HttpProblem =>
  requestProblem(
    'changed-meanwhile',
    `“${title}” was saved as version ${version} elsewhere, while you changed version ${from}. Save yours as new, or load this page again for version ${version}.`,
  );
