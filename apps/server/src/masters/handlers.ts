import { type MasterFacts } from '@rundle/core';
import { adoptOutputs, contentOf, loadMasters, masterDetail, masterJson, masterView, notify, pageOf } from '@rundle/store';
import { type Handlers, MadeJson } from '../http/handlers';
import type { Services } from '../services';
import { notFound, requestProblem } from '../http/problem';
import { sendOpened } from '../http/send-opened';
import { findMaster, findSet } from '../sets/find';
import { decisionsOfSet, matchDecisions } from './decisions';
import { addMasters } from './take-in';
import { changeMarks, putInOrder } from './marks';
import { inSet, queueReading } from './queue-reading';

export function masterHandlers({ database, files }: Services) {
  const { masters, runs, sequelize } = database;

  return {
    listMasters: async ({ setId, query: { from, count } }) => {
      await findSet(database, setId);
      const rows = await loadMasters(database, setId, { from, count });
      // A part that is not full is the last one.
      const total = rows.length > 0 && rows.length < count ? from + rows.length : await masters.count({ where: inSet(setId) });
      return new MadeJson(Buffer.from(`{"masters":[${rows.map(masterJson).join(',')}],"total":${total}}`));
    },

    getMaster: async ({ masterId }) => masterDetail(await findMaster(database, masterId)),

    addTwins: async ({ setId, body }) => {
      await findSet(database, setId);
      const known = await masters.findAll({ where: { setId, sha256: body.twins.map(({ sha256 }) => sha256) } });
      const arrived = body.twins.flatMap(({ fileName, sha256 }) => {
        const twin = known.find((master) => master.sha256 === sha256);
        return twin ? [{ fileName, sha256, bytes: Number(twin.bytes), modified: twin.sourceMtimeMs }] : [];
      });
      const { rows, twins } = await sequelize.transaction((transaction) => addMasters(database, setId, arrived, 'add', transaction));
      return { masters: rows.map(masterView), twins };
    },

    changeMarks: async ({ setId, body }) => {
      await findSet(database, setId);
      return { revisions: await changeMarks(database, setId, body.marks) };
    },

    exportDecisions: async ({ setId }) => {
      await findSet(database, setId);
      return decisionsOfSet(database, setId);
    },

    matchDecisions: async ({ setId, body }) => {
      await findSet(database, setId);
      return matchDecisions(database, setId, body);
    },

    changeOrder: async ({ setId, body }) => {
      await findSet(database, setId);
      await putInOrder(database, setId, body.masterIds);
    },

    removeMasters: async ({ setId, body }) => {
      await sequelize.transaction(async (transaction) => {
        // The set's row keeps a run from being started at the same moment.
        await database.sets.findByPk(setId, { transaction, lock: true });
        if (await runs.count({ where: { setId, state: ['running', 'paused'] }, transaction }))
          throw requestProblem('run-under-way', 'A run of this set is under way. Wait for its end or cancel it, then remove pictures.');
        await masters.update({ removedAt: new Date() }, { where: { ...inSet(setId), id: body.masterIds }, transaction });
        await adoptOutputs(sequelize, setId, transaction);
        await notify(sequelize, { about: 'masters', setId, ids: body.masterIds }, transaction);
      });
    },

    restoreMasters: async ({ setId, body }) => {
      await sequelize.transaction(async (transaction) => {
        await masters.update({ removedAt: null }, { where: { setId, id: body.masterIds }, transaction });
        await adoptOutputs(sequelize, setId, transaction);
        await notify(sequelize, { about: 'masters', setId, ids: body.masterIds }, transaction);
        await notify(sequelize, { about: 'order', setId, ids: [setId] }, transaction);
      });
    },

    readMastersAgain: async ({ setId, body }) => {
      await sequelize.transaction(async (transaction) => {
        await findSet(database, setId, transaction);
        const rows = await masters.findAll({ where: { ...inSet(setId), id: body.masterIds, state: ['failed', 'ready'] }, transaction });
        await masters.update({ state: 'arriving', problem: null }, { where: { id: rows.map(({ id }) => id) }, transaction });
        await queueReading(database, setId, rows, transaction);
      });
    },

    getThumbnail: async ({ masterId, query, request, response }) => {
      // Without its facts, which are most of a row: a screen asks for dozens of these at a time.
      const master = await masters.findByPk(masterId, { attributes: ['state', 'sha256', 'overrides'], raw: true });
      if (master?.state !== 'ready' || master.sha256 === null) throw notFound('thumbnail');
      // The file of a master may have changed without the page knowing yet.
      const named = query.content === contentOf(master);
      const file = await files.masters.openSmallPicture(master.sha256, pageOf(master));
      if (!file) throw notFound('thumbnail');
      response.setHeader('Cache-Control', named ? 'private, max-age=31536000, immutable' : AS_IT_IS_NOW);
      response.type('image/jpeg');
      await sendOpened(request, response, file);
    },

    getPicture: async ({ masterId, request, response }) => {
      const master = await findMaster(database, masterId);
      const { state, facts, sha256 } = master;
      if (state !== 'ready' || !facts || sha256 === null) throw notFound('picture');
      const type = facts.colourModel === 'rgb' || facts.colourModel === 'grey' ? SHOWN_BY_BROWSERS[facts.format] : undefined;
      const file = type ? await files.masters.open(master) : await files.masters.openSmallPicture(sha256, pageOf(master));
      if (!file) throw notFound('picture');
      response.setHeader('Cache-Control', AS_IT_IS_NOW);
      response.type(type ?? 'image/jpeg');
      await sendOpened(request, response, file);
    },
  } satisfies Partial<Handlers>;
}

/** Browsers revalidate their copy on every use. */
const AS_IT_IS_NOW = 'private, no-cache';

const SHOWN_BY_BROWSERS: Partial<Record<MasterFacts['format'], string>> = {
  jpeg: 'image/jpeg',
  png: 'image/png',
  webp: 'image/webp',
  avif: 'image/avif',
};
