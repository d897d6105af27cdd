import { type NewBundle, Preset, starterPresets, type StoredBundle, type StoredPreset } from '@rundle/core';
import { type BundleRow, notifyTopic, type PresetRow } from '@rundle/store';
import { Op, type Transaction } from 'sequelize';
import type { Handlers } from '../http/handlers';
import { notFound } from '../http/problem';
import type { Services } from '../services';
import { createPreset, currentView, currentViews, findPreset, listPresets } from './stored';

/** The library of presets: order, groups, versions, the bin, and what is chosen together. */
export function libraryHandlers({ database }: Services) {
  const { sequelize, presets, presetVersions, bundles } = database;
  const changing = <T>(change: (transaction: Transaction) => Promise<T>): Promise<T> =>
    sequelize.transaction(async (transaction) => {
      await notifyTopic(sequelize, 'presets', transaction);
      return change(transaction);
    });

  return {
    listDeletedPresets: async () => {
      const rows = await presets.findAll({ where: { deletedAt: { [Op.ne]: null } }, order: [['deletedAt', 'DESC']], limit: 200 });
      return currentViews(database, rows);
    },

    restorePreset: ({ presetId }) =>
      changing(async (transaction) => {
        const row = await presets.findByPk(presetId, { transaction, lock: true });
        if (!row) throw notFound('preset');
        await row.update({ deletedAt: null }, { transaction });
        return currentView(database, row, transaction);
      }),

    arrangePreset: ({ presetId, body: { group, favourite, before } }) =>
      changing(async (transaction) => {
        const row = await findPreset(database, presetId, transaction);
        await row.update(
          { ...(group === undefined ? {} : { groupName: group }), ...(favourite === undefined ? {} : { favourite }) },
          { transaction },
        );
        if (before !== undefined) await putBefore(row, before, transaction);
        return currentView(database, row, transaction);
      }),

    listPresetVersions: async ({ presetId }) => {
      await findPreset(database, presetId);
      const rows = await presetVersions.findAll({ where: { presetId }, order: [['version', 'DESC']] });
      return rows.map(({ version, madeAt, body }) => ({ version, madeAt: madeAt?.toISOString() ?? null, preset: Preset.parse(body) }));
    },

    addStarterPresets: () =>
      changing(async (transaction) => {
        const taken = new Set((await listPresets(database, undefined, transaction)).map(({ preset }) => preset.title));
        const made: StoredPreset[] = [];
        for (const { preset, ...place } of starterPresets())
          if (!taken.has(preset.title)) made.push(await createPreset(database, preset, transaction, place));
        return made;
      }),

    listBundles: async () => (await bundles.findAll({ order: [['createdAt', 'ASC']] })).map(bundleView),

    createBundle: ({ body }) =>
      changing(async (transaction) => bundleView(await bundles.create(await ofKnown(body, transaction), { transaction }))),

    changeBundle: ({ bundleId, body }) =>
      changing(async (transaction) => {
        const row = await findBundle(bundleId, transaction);
        await row.update(await ofKnown(body, transaction), { transaction });
        return bundleView(row);
      }),

    deleteBundle: ({ bundleId }) => changing(async (transaction) => (await findBundle(bundleId, transaction)).destroy({ transaction })),
  } satisfies Partial<Handlers>;

  /** All of them get their numbers anew: there are few, and no two may share one. */
  async function putBefore(row: PresetRow, before: string | null, transaction: Transaction): Promise<void> {
    const all = await presets.findAll({ where: { deletedAt: null }, order: [['position', 'ASC']], transaction, lock: true });
    const others = all.filter(({ id }) => id !== row.id);
    const at = before === null ? others.length : others.findIndex(({ id }) => id === before);
    if (at < 0) throw notFound('preset');
    const ordered = [...others.slice(0, at), row, ...others.slice(at)];
    for (const [position, one] of ordered.entries()) if (one.position !== position) await one.update({ position }, { transaction });
  }

  async function findBundle(id: string, transaction: Transaction): Promise<BundleRow> {
    const row = await bundles.findByPk(id, { transaction });
    if (!row) throw notFound('bundle');
    return row;
  }

  async function ofKnown({ title, presetIds }: NewBundle, transaction: Transaction): Promise<NewBundle> {
    const ids = [...new Set(presetIds)];
    // One that is in the bin keeps its place: it may be put back.
    if ((await presets.count({ where: { id: ids }, transaction })) < ids.length) throw notFound('preset');
    return { title, presetIds: ids };
  }
}

const bundleView = ({ id, title, presetIds }: BundleRow): StoredBundle => ({ id, title, presetIds });
