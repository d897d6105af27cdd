import { randomUUID } from 'node:crypto';
import { ENGINE, stampedLooks } from '@rundle/core';
import { lockContents, type MasterRow, notify, notifyTopic } from '@rundle/store';
import type { CreationAttributes, Transaction } from 'sequelize';
import type { Handlers } from '../http/handlers';
import { notFound, requestProblem } from '../http/problem';
import { inSet, queueReading } from '../masters/queue-reading';
import type { Services } from '../services';
import { findSet } from './find';
import { setDetail, setSummaries } from './summaries';

export function setHandlers({ database }: Services) {
  const { sets, masters, runs, sequelize } = database;

  return {
    listSets: () => setSummaries(database),

    createSet: async ({ body }) => {
      const { id } = await sets.create({ title: body.title });
      await notifyTopic(sequelize, 'sets');
      return setDetail(database, id);
    },

    getSet: ({ setId }) => setDetail(database, setId),

    changeSet: async ({ setId, body: { shelf, remake, ...body } }) => {
      await sequelize.transaction(async (transaction) => {
        const set = await findSet(database, setId, transaction);
        const before = set.secondLooks;
        if (shelf === 'bin') await refuseWhileRunning(setId, transaction);
        if (body.houseRulesId) await findHouseRules(body.houseRulesId, transaction);
        set.set(JSON.parse(JSON.stringify(body)) as object); // without fields that are not named
        if (body.secondLooks) set.set({ secondLooks: stampedLooks(before, body.secondLooks, new Date().toISOString()) });
        if (remake !== undefined) set.set({ remakeBy: remake ? ENGINE : null });
        if (shelf) set.set({ archivedAt: shelf === 'archive' ? new Date() : null, deletedAt: shelf === 'bin' ? new Date() : null });
        await set.save({ transaction });
        await notify(sequelize, { about: 'set', setId, ids: [setId] }, transaction);
      });
      return setDetail(database, setId);
    },

    duplicateSet: async ({ setId }) => {
      const copy = await sequelize.transaction(async (transaction) => {
        await lockContents(sequelize, transaction, 'together');
        const { title, filter, presetIds, houseRulesId, rights, place, once } = await findSet(database, setId, transaction);
        const copied = { title: copyTitle(title), filter, presetIds, houseRulesId: houseRulesId ?? null, rights, place, once };
        const made = await sets.create(copied, { transaction });
        const rows = await masters.findAll({ where: inSet(setId), transaction });
        await masters.bulkCreate(
          rows.map((row) => ({ ...(row.get({ plain: true }) as CreationAttributes<MasterRow>), id: randomUUID(), setId: made.id })),
          { transaction },
        );
        // Pictures that were still being read are read for both.
        const reading = await masters.findAll({ where: { ...inSet(made.id), state: 'arriving' }, transaction });
        await queueReading(database, made.id, reading, transaction);
        await notifyTopic(sequelize, 'sets', transaction);
        return made;
      });
      return setDetail(database, copy.id);
    },
  } satisfies Partial<Handlers>;

  async function findHouseRules(id: string, transaction: Transaction): Promise<void> {
    if (!(await database.houseRules.count({ where: { id, deletedAt: null }, transaction }))) throw notFound('house rules');
  }

  async function refuseWhileRunning(setId: string, transaction: Transaction): Promise<void> {
    if (await runs.count({ where: { setId, state: ['running', 'paused'] }, transaction }))
      throw requestProblem('run-under-way', 'A run of this set is under way. Wait for its end or cancel it first.');
  }
}

/** "Evening" becomes "Evening (2)", that "Evening (3)". */
function copyTitle(title: string): string {
  const [, name = title, number] = /^(.*) \((\d+)\)$/.exec(title) ?? [];
  return `${name.slice(0, 110)} (${Number(number ?? 1) + 1})`;
}
