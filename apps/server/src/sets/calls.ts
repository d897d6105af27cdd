import { NewSet, SetChange, SetDetail, SetSummary } from '@rundle/core';
import { notify } from '@rundle/store';
import * as z from 'zod';
import type { Api } from '../http/api';
import type { Services } from '../services';
import { findSet, SetParams } from './find';
import { setDetail, setSummaries } from './summaries';

export function addSetCalls(api: Api, { database }: Services): void {
  const { sets, sequelize } = database;

  api.add({ method: 'get', path: '/api/sets', summary: 'All sets, newest first', answer: z.array(SetSummary) }, () =>
    setSummaries(database),
  );

  api.add(
    { method: 'post', path: '/api/sets', summary: 'Makes an empty set', body: NewSet, answer: SetDetail, status: 201 },
    async ({ body }) => {
      const { id } = await sets.create({ title: body.title });
      return setDetail(database, id);
    },
  );

  api.add(
    { method: 'get', path: '/api/sets/{setId}', summary: 'A set, without its masters', params: SetParams, answer: SetDetail },
    ({ params }) => setDetail(database, params.setId),
  );

  api.add(
    {
      ...{ method: 'patch', path: '/api/sets/{setId}', params: SetParams, body: SetChange, answer: SetDetail },
      summary: 'Renames a set, keeps its filter, chosen presets and house rules',
    },
    async ({ params: { setId }, body }) => {
      await sequelize.transaction(async (transaction) => {
        const set = await findSet(database, setId);
        set.set(JSON.parse(JSON.stringify(body)) as object); // without fields that are not named
        await set.save({ transaction });
        await notify(sequelize, { about: 'set', setId, ids: [setId] }, transaction);
      });
      return setDetail(database, setId);
    },
  );
}
