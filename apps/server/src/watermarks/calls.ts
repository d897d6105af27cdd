import { Id, NewWatermark, StoredWatermark } from '@rundle/core';
import { addJobs, watermarkView } from '@rundle/store';
import * as z from 'zod';
import type { Api } from '../http/api';
import { notFound } from '../http/problem';
import type { Services } from '../services';

const Params = z.object({ watermarkId: Id });

export function addWatermarkCalls(api: Api, { database }: Services): void {
  const { sequelize, watermarks } = database;

  api.add({ method: 'get', path: '/api/watermarks', summary: 'The studio’s watermarks', answer: z.array(StoredWatermark) }, async () =>
    (await watermarks.findAll({ where: { deletedAt: null }, order: [['createdAt', 'ASC']] })).map(watermarkView),
  );

  api.add(
    {
      ...{ method: 'post', path: '/api/watermarks', body: NewWatermark, answer: StoredWatermark, status: 201 },
      summary: 'Adds a watermark; a worker checks it by drawing it once',
    },
    async ({ body }) =>
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
        return watermarkView(row);
      }),
  );

  api.add(
    { method: 'delete', path: '/api/watermarks/{watermarkId}', summary: 'Takes a watermark away; what carries it stays', params: Params },
    async ({ params }) => {
      const row = await watermarks.findOne({ where: { id: params.watermarkId, deletedAt: null } });
      if (!row) throw notFound('watermark');
      await row.update({ deletedAt: new Date() });
    },
  );
}
