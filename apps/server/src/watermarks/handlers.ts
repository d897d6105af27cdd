import { addJobs, notifyTopic, watermarkView } from '@rundle/store';
import type { Handlers } from '../http/handlers';
import { notFound } from '../http/problem';
import type { Services } from '../services';

export function watermarkHandlers({ database }: Services) {
  const { sequelize, watermarks } = database;

  return {
    listWatermarks: async () =>
      (await watermarks.findAll({ where: { deletedAt: null }, order: [['createdAt', 'ASC']] })).map(watermarkView),

    createWatermark: async ({ body }) =>
      sequelize.transaction(async (transaction) => {
        const content =
          body.kind === 'text'
            ? { text: body.text, colour: body.colour, data: null }
            : { text: null, colour: null, data: Buffer.from(body.data, 'base64') };
        const { title, kind } = body;
        const row = await watermarks.create(
          { title, kind, ...content, state: 'checking', problem: null, deletedAt: null },
          { transaction },
        );
        await addJobs(sequelize, transaction, 'check-watermark', [{ watermarkId: row.id }]);
        await notifyTopic(sequelize, 'watermarks', transaction);
        return watermarkView(row);
      }),

    deleteWatermark: async ({ watermarkId }) => {
      const row = await watermarks.findOne({ where: { id: watermarkId, deletedAt: null } });
      if (!row) throw notFound('watermark');
      await row.update({ deletedAt: new Date() });
      await notifyTopic(sequelize, 'watermarks');
    },
  } satisfies Partial<Handlers>;
}
