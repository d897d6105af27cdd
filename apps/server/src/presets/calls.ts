import { Id, Preset, StoredPreset } from '@rundle/core';
import { presetView } from '@rundle/store';
import * as z from 'zod';
import type { Api } from '../http/api';
import type { Services } from '../services';
import { createPreset, currentView, findPreset, listPresets } from './stored';

const PresetParams = z.object({ presetId: Id });

export function addPresetCalls(api: Api, { database }: Services): void {
  api.add({ method: 'get', path: '/api/presets', summary: 'All presets', answer: z.array(StoredPreset) }, () => listPresets(database));

  api.add(
    { method: 'post', path: '/api/presets', summary: 'Makes a preset', body: Preset, answer: StoredPreset, status: 201 },
    async ({ body }) => {
      return database.sequelize.transaction((transaction) => createPreset(database, body, transaction));
    },
  );

  api.add(
    { method: 'get', path: '/api/presets/{presetId}', summary: 'A preset', params: PresetParams, answer: StoredPreset },
    async ({ params }) => currentView(database, await findPreset(database, params.presetId)),
  );

  api.add(
    {
      ...{ method: 'put', path: '/api/presets/{presetId}', params: PresetParams, body: Preset, answer: StoredPreset },
      summary: 'Changes a preset: makes its next version; outputs keep the version that made them',
    },
    async ({ params, body }) => {
      return database.sequelize.transaction(async (transaction) => {
        const row = await findPreset(database, params.presetId, transaction);
        await row.update({ version: row.version + 1, updatedAt: new Date() }, { transaction });
        const version = await database.presetVersions.create({ presetId: row.id, version: row.version, body }, { transaction });
        return presetView(row, version);
      });
    },
  );

  api.add(
    { method: 'delete', path: '/api/presets/{presetId}', summary: 'Deletes a preset; what it made stays', params: PresetParams },
    async ({ params }) => {
      await (await findPreset(database, params.presetId)).update({ deletedAt: new Date() });
    },
  );
}
