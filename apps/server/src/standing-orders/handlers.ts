import { join } from 'node:path';
import { asksForPlace, localDay, type Place } from '@rundle/core';
import { notifyTopic, type StandingOrderRow } from '@rundle/store';
import type { Transaction } from 'sequelize';
import type { Handlers } from '../http/handlers';
import { notFound, requestProblem } from '../http/problem';
import { inRoots, picturesIn } from '../machine/folders';
import { listPresets } from '../presets/stored';
import type { Services } from '../services';
import { orderFiles, orderViews } from './views';

export function standingOrderHandlers({ config, database, files }: Services) {
  const { sequelize, sets, standingOrders, standingOrderFiles } = database;

  return {
    listStandingOrders: async () =>
      orderViews(database, await standingOrders.findAll({ where: { deletedAt: null }, order: [['createdAt', 'ASC']] })),

    createStandingOrder: async ({ body: { takeExisting, ...body } }) => {
      const folder = await inRoots(body.folder, config.roots);
      await refuseUnusable(body.presetIds, body.place, folder);
      const there: { path: string; bytes: number; mtimeMs: number }[] = [];
      if (!takeExisting)
        await picturesIn({ folder, deeper: body.deeper }, config.roots, files.masters, (part) => {
          there.push(...part.map(({ path, bytes, mtimeMs }) => ({ path, bytes, mtimeMs })));
          return Promise.resolve();
        });
      const row = await sequelize.transaction(async (transaction) => {
        const made = await standingOrders.create({ ...body, folder }, { transaction });
        const now = new Date();
        const left = there.map((file) => ({ ...file, orderId: made.id, sha256: null, fate: 'left' as const, settledAt: now }));
        await standingOrderFiles.bulkCreate(left, { transaction });
        await notifyTopic(sequelize, 'standing-orders', transaction);
        return made;
      });
      return viewOf(row);
    },

    changeStandingOrder: async ({ orderId, body }) => {
      const before = await findOrder(orderId);
      await refuseUnusable(body.presetIds ?? [], body.place ?? null, before.folder);
      const row = await sequelize.transaction(async (transaction) => {
        const order = await findOrder(orderId, transaction);
        const { on, ...fields } = body;
        order.set(JSON.parse(JSON.stringify(fields)) as object); // without fields that are not named
        order.set({ problem: null, ...(on === undefined ? {} : { isOn: on }) });
        await order.save({ transaction });
        // What comes today goes the new way, too.
        const { presetIds, place } = order;
        const ofToday = { standingOrderId: orderId, standingDay: localDay(new Date()), deletedAt: null };
        if (body.presetIds ?? body.place) await sets.update({ presetIds, place }, { where: ofToday, transaction });
        await notifyTopic(sequelize, 'standing-orders', transaction);
        return order;
      });
      return viewOf(row);
    },

    deleteStandingOrder: async ({ orderId }) => {
      await sequelize.transaction(async (transaction) => {
        await (await findOrder(orderId, transaction)).update({ deletedAt: new Date(), isOn: false }, { transaction });
        await notifyTopic(sequelize, 'standing-orders', transaction);
      });
    },

    listOrderFiles: async ({ orderId }) => orderFiles(database, await findOrder(orderId)),
  } satisfies Partial<Handlers>;

  async function findOrder(id: string, transaction?: Transaction): Promise<StandingOrderRow> {
    const row = await standingOrders.findOne({ where: { id, deletedAt: null }, ...(transaction ? { transaction, lock: true } : {}) });
    if (!row) throw notFound('standing order');
    return row;
  }

  async function viewOf(row: StandingOrderRow) {
    const [view] = await orderViews(database, [row]);
    return view!;
  }

  /** Nobody sits beside an order to see its run refused: what it would fail for is told at once. */
  async function refuseUnusable(presetIds: readonly string[], place: Place | null, folder: string): Promise<void> {
    const wanted = [...new Set(presetIds)];
    const presets = await listPresets(database, wanted);
    if (presets.length < wanted.length) throw requestProblem('not-found', 'One of the chosen presets has been deleted. Choose again.');
    const asking = presets.find(({ preset }) => asksForPlace(preset, undefined));
    if (asking)
      throw requestProblem(
        'place-asked',
        `“${asking.preset.title}” asks where its files go, and nobody is there to answer. Choose another place in the preset.`,
      );
    if (!place || place.kind === 'own') return;
    const refusal = await files.outputs.refusal(place.kind === 'folder' ? place.path : join(folder, place.folder));
    if (refusal) throw requestProblem('no-place', refusal.message, [refusal]);
  }
}
