import { randomUUID } from 'node:crypto';
import { NewSet, SetChange, SetDetail, SetSummary } from '@rundle/core';
import { lockContents, type MasterRow, notify } from '@rundle/store';
import type { CreationAttributes, Transaction } from 'sequelize';
import * as z from 'zod';
import type { Api } from '../http/api';
import { HttpProblem, notFound } from '../http/problem';
import { inSet } from '../masters/marks';
import { queueReading } from '../masters/queue-reading';
import type { Services } from '../services';
import { findSet, SetParams } from './find';
import { setDetail, setSummaries } from './summaries';

export function addSetCalls(api: Api, { database }: Services): void {
  const { sets, masters, runs, sequelize } = database;

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
      summary: 'Renames a set, keeps its filter, chosen presets, house rules and rights details',
    },
    async ({ params: { setId }, body: { shelf, ...body } }) => {
      await sequelize.transaction(async (transaction) => {
        const set = await findSet(database, setId, transaction);
        if (shelf === 'bin') await refuseWhileRunning(setId, transaction);
        if (body.houseRulesId) await findHouseRules(body.houseRulesId, transaction);
        set.set(JSON.parse(JSON.stringify(body)) as object); // without fields that are not named
        if (shelf) set.set({ archivedAt: shelf === 'archive' ? new Date() : null, deletedAt: shelf === 'bin' ? new Date() : null });
        await set.save({ transaction });
        await notify(sequelize, { about: 'set', setId, ids: [setId] }, transaction);
      });
      return setDetail(database, setId);
    },
  );

  api.add(
    {
      ...{ method: 'post', path: '/api/sets/{setId}/duplicate', params: SetParams, answer: SetDetail, status: 201 },
      summary: 'A second set with the same pictures, marks and order; no file is copied',
    },
    async ({ params: { setId } }) => {
      const copy = await sequelize.transaction(async (transaction) => {
        await lockContents(sequelize, transaction, 'together');
        const { title, filter, presetIds, houseRulesId, rights } = await findSet(database, setId, transaction);
        const copied = { title: copyTitle(title), filter, presetIds, houseRulesId: houseRulesId ?? null, rights };
        const made = await sets.create(copied, { transaction });
        const rows = await masters.findAll({ where: inSet(setId), transaction });
        await masters.bulkCreate(
          rows.map((row) => ({ ...(row.get({ plain: true }) as CreationAttributes<MasterRow>), id: randomUUID(), setId: made.id })),
          { transaction },
        );
        // Pictures that were still being read are read for both.
        const reading = await masters.findAll({ where: { ...inSet(made.id), state: 'arriving' }, transaction });
        await queueReading(database, made.id, reading, transaction);
        return made;
      });
      return setDetail(database, copy.id);
    },
  );

  async function findHouseRules(id: string, transaction: Transaction): Promise<void> {
    if (!(await database.houseRules.count({ where: { id, deletedAt: null }, transaction }))) throw notFound('house rules');
  }

  async function refuseWhileRunning(setId: string, transaction: Transaction): Promise<void> {
    if (await runs.count({ where: { setId, state: 'running' }, transaction }))
      throw new HttpProblem(409, 'run-under-way', 'A run of this set is under way. Wait for its end or cancel it first.');
  }
}

/** "Evening" becomes "Evening (2)", that "Evening (3)". */
function copyTitle(title: string): string {
  const [, name = title, number] = /^(.*) \((\d+)\)$/.exec(title) ?? [];
  return `${name.slice(0, 110)} (${Number(number ?? 1) + 1})`;
}
