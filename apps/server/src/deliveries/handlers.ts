import { type Delivery, isOpenDelivery, NewDelivery } from '@rundle/core';
import { openOnce } from '@rundle/place';
import { deliveryFolder, type DeliveryFileRow, type DeliveryRow, messageFile, notifyTopic } from '@rundle/store';
import type { Handlers } from '../http/handlers';
import { notFound, requestProblem } from '../http/problem';
import { sendOpened } from '../http/send-opened';
import type { Services } from '../services';
import { findSet } from '../sets/find';
import type { GalleryViews } from './gallery-views';
import { listAnew, startDelivery } from './start-delivery';
import { deliveryViews } from './views';
import { sendZip } from './zip';

/** Deliveries that are listed of a set, and files of one. */
const MOST_LISTED = 200;
const MOST_FILES = 5000;

export function deliveryHandlers(services: Services, galleryViews: GalleryViews) {
  const { config, courier, database, files, threads } = services;
  const { deliveries, deliveryFiles, sequelize } = database;
  const folderOf = (id: string) => deliveryFolder(config.data, id);

  return {
    listDeliveries: async ({ setId }) => {
      const set = await findSet(database, setId);
      return deliveryViews(
        database,
        await deliveries.findAll({ where: { setId: set.id }, order: [['createdAt', 'DESC']], limit: MOST_LISTED }),
      );
    },

    previewDelivery: ({ setId, body }) => threads.ask({ kind: 'preview', setId, wish: body }),

    startDelivery: async ({ setId, body }) => begun(await startDelivery(services, setId, body, await threads.outputs(setId))),

    getDelivery: async ({ deliveryId }) => {
      const row = await find(deliveryId);
      const own = await deliveryFiles.findAll({ where: { deliveryId }, order: [['position', 'ASC']], limit: MOST_FILES });
      const listed = own.map(({ path, bytes, state, problem }) => ({ path, bytes: Number(bytes), state, problem }));
      return { ...(await viewOf(row)), files: listed, log: row.log };
    },

    decideDelivery: async ({ deliveryId, body }) => {
      const row = await find(deliveryId);
      if (row.state !== 'held') throw over();
      await row.update({ state: 'checking', decision: body.send });
      return begun(row);
    },

    resumeDelivery: async ({ deliveryId, body }) => {
      const row = await find(deliveryId);
      if (row.state !== 'failed' && row.state !== 'cancelled') throw over();
      const outputs = body.files === 'renewed' ? await threads.outputs(row.setId) : [];
      await sequelize.transaction(async (transaction) => {
        await row.update({ state: 'checking', finishedAt: null, cancelAskedAt: null, problem: null }, { transaction });
        await deliveryFiles.update({ state: 'waiting', problem: null }, { where: { deliveryId, state: 'failed' }, transaction });
        if (body.files === 'renewed') await listAnew(services, row, outputs, transaction);
      });
      return begun(row);
    },

    cancelDelivery: async ({ deliveryId }) => {
      const row = await find(deliveryId);
      if (row.state === 'held') await row.update({ state: 'cancelled', finishedAt: new Date(), cancelAskedAt: new Date() });
      else if (isOpenDelivery(row)) await row.update({ cancelAskedAt: new Date() });
      courier.stop(row.id);
      await notifyTopic(sequelize, 'deliveries');
      return viewOf(row);
    },

    repeatDelivery: async ({ deliveryId }) => {
      const row = await find(deliveryId);
      return begun(await startDelivery(services, row.setId, NewDelivery.parse(row.wish), await threads.outputs(row.setId)));
    },

    getDeliveryZip: async ({ deliveryId, request, response }) => {
      const row = await find(deliveryId);
      const sent = await deliveryFiles.findAll({ where: { deliveryId, state: 'sent' }, order: [['position', 'ASC']] });
      if (NewDelivery.parse(row.wish).way.kind !== 'zip' || row.finishedAt === null || sent.length === 0) throw over();
      const set = await findSet(database, row.setId);
      const about = { title: set.title, at: row.createdAt, tag: row.id };
      const ids = sent.flatMap(({ outputId }) => outputId ?? []);
      const marks = new Map(
        (await database.outputs.findAll({ where: { id: ids }, attributes: ['id', 'mark'] })).map(({ id, mark }) => [id, mark]),
      );
      const rows = sent.map((file) => ({
        ...(file.get({ plain: true }) as DeliveryFileRow),
        mark: marks.get(file.outputId ?? '') ?? null,
      }));
      await sendZip(rows, { outputs: files.outputs, made: folderOf(row.id) }, about, { request, response });
    },

    getDeliveryMessage: async ({ deliveryId, query, request, response }) => {
      const row = await find(deliveryId);
      const found = await openOnce(messageFile(folderOf(row.id), query.number)).catch(() => null);
      if (!found) throw notFound('message');
      response.setHeader('Content-Type', 'message/rfc822');
      response.attachment(`message-${query.number}.eml`);
      await sendOpened(request, response, found.opened);
    },

    viewGallery: async ({ setId, body }) => ({ page: galleryViews.add(await threads.viewGallery(setId, body)) }),

    writeSnippet: ({ setId, body }) => threads.ask({ kind: 'snippet', setId, ...body }),
  } satisfies Partial<Handlers>;

  async function find(id: string): Promise<DeliveryRow> {
    const row = await deliveries.findByPk(id);
    if (!row) throw notFound('delivery');
    return row;
  }

  async function viewOf(row: DeliveryRow): Promise<Delivery> {
    const [view] = await deliveryViews(database, [row]);
    return view!;
  }

  async function begun(row: DeliveryRow): Promise<Delivery> {
    courier.wake();
    await notifyTopic(sequelize, 'deliveries');
    return viewOf(row);
  }
}

const over = () => requestProblem('delivery-over', 'The delivery is not as far as that, or over. What is shown may be out of date.');
