import type { Watermark } from '@rundle/core';
import { addJobs, drawableMark, notifyTopic, watermarkView } from '@rundle/store';
import type { Response } from 'express';
import type { Handlers } from '../http/handlers';
import { notFound } from '../http/problem';
import type { Services } from '../services';
import { contentOf, storeWatermark } from './stored';

export function watermarkHandlers({ database, samplers, checkedMarks }: Services) {
  const { sequelize, watermarks } = database;

  async function send(watermark: Watermark, response: Response): Promise<void> {
    const gone = new AbortController();
    response.once('close', () => gone.abort());
    await checkedMarks.ensure(watermark);
    const png = await samplers.mark(watermark, gone.signal);
    if (!response.destroyed) response.setHeader('Cache-Control', 'no-store').type('image/png').end(png);
  }

  return {
    listWatermarks: async () =>
      (await watermarks.findAll({ where: { deletedAt: null }, order: [['createdAt', 'ASC']] })).map(watermarkView),

    createWatermark: async ({ body }) =>
      sequelize.transaction(async (transaction) => {
        const row = await storeWatermark(database, body, transaction);
        await addJobs(sequelize, transaction, 'check-watermark', [{ watermarkId: row.id }]);
        await notifyTopic(sequelize, 'watermarks', transaction);
        return watermarkView(row);
      }),

    showWatermark: async ({ watermarkId, response }) => {
      const row = await watermarks.findByPk(watermarkId);
      if (!row || row.state === 'refused') throw notFound('watermark');
      await send(drawableMark(row), response);
    },

    tryWatermark: async ({ body, response }) => send(drawableMark(watermarks.build(contentOf(body))), response),

    deleteWatermark: async ({ watermarkId }) => {
      const row = await watermarks.findOne({ where: { id: watermarkId, deletedAt: null } });
      if (!row) throw notFound('watermark');
      await row.update({ deletedAt: new Date() });
      await notifyTopic(sequelize, 'watermarks');
    },
  } satisfies Partial<Handlers>;
}
