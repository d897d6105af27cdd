import { Id, NewSet, SetDetail, SetSummary, UploadResult } from '@rundle/core';
import { masterView, notify } from '@rundle/store';
import * as z from 'zod';
import type { Api } from '../http/api';
import type { Services } from '../services';
import { HttpProblem, notFound } from '../http/problem';
import { sendWhole } from '../http/send-whole';
import { findMaster, findSet, MasterParams, SetParams } from './find';
import { setSummaries } from './summaries';
import { addMasters } from './take-in';
import { receiveFiles } from './upload';

export function addSetCalls(api: Api, { config, database, storage }: Services): void {
  const { sets, masters, runs, sequelize } = database;

  api.add({ method: 'get', path: '/api/sets', summary: 'All sets, newest first', answer: z.array(SetSummary) }, () =>
    setSummaries(database),
  );

  api.add(
    { method: 'post', path: '/api/sets', summary: 'Makes an empty set', body: NewSet, answer: SetSummary, status: 201 },
    async ({ body }) => {
      const { id } = await sets.create({ title: body.title });
      return oneSummary(id);
    },
  );

  api.add(
    { method: 'get', path: '/api/sets/{setId}', summary: 'A set with its masters', params: SetParams, answer: SetDetail },
    async ({ params }) => {
      const summary = await oneSummary(params.setId);
      const rows = await masters.findAll({ where: { setId: params.setId }, order: [['position', 'ASC']] });
      return { ...summary, masters: rows.map(masterView) };
    },
  );

  api.add(
    { method: 'patch', path: '/api/sets/{setId}', summary: 'Renames a set', params: SetParams, body: NewSet, answer: SetSummary },
    async ({ params, body }) => {
      await (await findSet(database, params.setId)).update({ title: body.title });
      return oneSummary(params.setId);
    },
  );

  api.add(
    {
      ...{ method: 'post', path: '/api/sets/{setId}/masters', params: SetParams, answer: UploadResult, status: 201 },
      ...{ summary: 'Brings in pictures: files of a multipart form', media: { body: 'multipart/form-data' } },
    },
    async ({ params, request }) => {
      await findSet(database, params.setId);
      const { stored, refused } = await receiveFiles(request, storage, config.uploadBytes);
      const rows = stored.length ? await addMasters(database, params.setId, stored) : [];
      return { masters: rows.map(masterView), refused };
    },
  );

  const Removal = z.strictObject({ masterIds: z.array(Id).min(1).max(5000) });
  api.add(
    { method: 'post', path: '/api/sets/{setId}/masters/remove', summary: 'Takes pictures out of a set', params: SetParams, body: Removal },
    async ({ params: { setId }, body }) => {
      if (await runs.count({ where: { setId, state: 'running' } }))
        throw new HttpProblem(
          409,
          'run-under-way',
          'A run of this set is under way. Wait for its end or cancel it, then take pictures out.',
        );
      await sequelize.transaction(async (transaction) => {
        await masters.destroy({ where: { setId, id: body.masterIds }, transaction });
        await notify(sequelize, { about: 'masters-removed', setId, ids: body.masterIds }, transaction);
      });
    },
  );

  api.add(
    {
      method: 'get',
      path: '/api/masters/{masterId}/thumbnail',
      summary: 'A small sRGB picture',
      params: MasterParams,
      media: { answer: 'image/jpeg' },
    },
    async ({ params, response }) => {
      const master = await findMaster(database, params.masterId);
      if (master.state !== 'ready') throw notFound('thumbnail');
      response.setHeader('Cache-Control', 'private, max-age=31536000, immutable');
      response.type('image/jpeg');
      await sendWhole(response, storage.proxy(master.sha256));
    },
  );

  async function oneSummary(setId: string): Promise<SetSummary> {
    const [summary] = await setSummaries(database, setId);
    if (!summary) throw notFound('set');
    return summary;
  }
}
