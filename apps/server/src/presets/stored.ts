import type { Preset, StoredPreset } from '@rundle/core';
import { type Database, type PresetRow, presetView } from '@rundle/store';
import type { Transaction } from 'sequelize';
import { notFound } from '../http/problem';

/**
 * A preset that has not been deleted.
 * @throws HttpProblem 404
 */
export async function findPreset({ presets }: Database, id: string, transaction?: Transaction): Promise<PresetRow> {
  const row = await presets.findOne({ where: { id, deletedAt: null }, ...(transaction ? { transaction, lock: true } : {}) });
  if (!row) throw notFound('preset');
  return row;
}

/** A preset as its newest version has it. */
export async function currentView({ presetVersions }: Database, row: PresetRow): Promise<StoredPreset> {
  const version = await presetVersions.findOne({ where: { presetId: row.id, version: row.version } });
  if (!version) throw notFound('preset');
  return presetView(row, version);
}

/** Writes a new preset down, behind the others. */
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
