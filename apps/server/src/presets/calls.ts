import { Id, Preset, StoredPreset } from '@rundle/core';
import { type Database, type PresetRow, presetView } from '@rundle/store';
import type { Transaction } from 'sequelize';
import * as z from 'zod';
import type { Api } from '../http/api';
import type { Services } from '../services';
import { notFound } from '../http/problem';

const PresetParams = z.object({ presetId: Id });

export function addPresetCalls(api: Api, { database }: Services): void {
  api.add({ method: 'get', path: '/api/presets', summary: 'All presets', answer: z.array(StoredPreset) }, () => listPresets(database));

  api.add(
    { method: 'post', path: '/api/presets', summary: 'Makes a preset', body: Preset, answer: StoredPreset, status: 201 },
    async ({ body }) => {
      return createPreset(database, body);
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

/** @throws HttpProblem 404 */
async function findPreset({ presets }: Database, id: string, transaction?: Transaction): Promise<PresetRow> {
  const row = await presets.findOne({ where: { id, deletedAt: null }, ...(transaction ? { transaction, lock: true } : {}) });
  if (!row) throw notFound('preset');
  return row;
}

async function currentView({ presetVersions }: Database, row: PresetRow): Promise<StoredPreset> {
  const version = await presetVersions.findOne({ where: { presetId: row.id, version: row.version } });
  if (!version) throw notFound('preset');
  return presetView(row, version);
}

export async function createPreset({ sequelize, presets, presetVersions }: Database, body: Preset): Promise<StoredPreset> {
  return sequelize.transaction(async (transaction) => {
    const last = (await presets.max<number | null, PresetRow>('position', { transaction })) ?? -1;
    const row = await presets.create({ version: 1, position: last + 1, deletedAt: null, updatedAt: new Date() }, { transaction });
    const version = await presetVersions.create({ presetId: row.id, version: 1, body }, { transaction });
    return presetView(row, version);
  });
}

/** All presets in their order, or those of some ids in the order of the ids. */
export async function listPresets(database: Database, ids?: readonly string[]): Promise<StoredPreset[]> {
  const rows = await database.presets.findAll({
    where: { deletedAt: null, ...(ids ? { id: [...ids] } : {}) },
    order: [['position', 'ASC']],
  });
  const views = await Promise.all(rows.map((row) => currentView(database, row)));
  return ids ? ids.flatMap((id) => views.find((view) => view.id === id) ?? []) : views;
}
