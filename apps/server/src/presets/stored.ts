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
export async function currentView(database: Database, row: PresetRow, transaction?: Transaction): Promise<StoredPreset> {
  const [view] = await currentViews(database, [row], transaction);
  if (!view) throw notFound('preset');
  return view;
}

/** Presets as their newest versions have them. */
export async function currentViews(
  { presetVersions }: Database,
  rows: readonly PresetRow[],
  transaction?: Transaction,
): Promise<StoredPreset[]> {
  const versions = await presetVersions.findAll({
    where: { presetId: rows.map(({ id }) => id) },
    ...(transaction ? { transaction } : {}),
  });
  return rows.flatMap((row) => {
    const version = versions.find(({ presetId, version }) => presetId === row.id && version === row.version);
    return version ? [presetView(row, version)] : [];
  });
}

/** Writes a new preset down, behind the others. */
export async function createPreset(
  { presets, presetVersions }: Database,
  body: Preset,
  transaction: Transaction,
  { group = '', favourite = false }: { group?: string; favourite?: boolean } = {},
): Promise<StoredPreset> {
  const last = (await presets.max<number | null, PresetRow>('position', { transaction })) ?? -1;
  const row = await presets.create(
    { version: 1, position: last + 1, groupName: group, favourite, deletedAt: null, updatedAt: new Date() },
    { transaction },
  );
  const version = await presetVersions.create({ presetId: row.id, version: 1, body }, { transaction });
  return presetView(row, version);
}

/** All presets in their order, or those of some ids in the order of the ids. */
export async function listPresets(database: Database, ids?: readonly string[], transaction?: Transaction): Promise<StoredPreset[]> {
  const rows = await database.presets.findAll({
    where: { deletedAt: null, ...(ids ? { id: [...ids] } : {}) },
    order: [['position', 'ASC']],
    ...(transaction ? { transaction } : {}),
  });
  const views = await currentViews(database, rows, transaction);
  return ids ? ids.flatMap((id) => views.find((view) => view.id === id) ?? []) : views;
}
