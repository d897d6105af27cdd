import { Id, MarksChange, MasterDetail, type MasterFacts, MasterPage, SomeMasters, TwinsWanted, UploadResult } from '@rundle/core';
import { contentOf, loadMasters, masterDetail, masterJson, masterView, notify } from '@rundle/store';
import * as z from 'zod';
import { type Api, MadeJson } from '../http/api';
import type { Services } from '../services';
import { HttpProblem, notFound } from '../http/problem';
import { sendOpened } from '../http/send-opened';
import { findMaster, findSet, MasterParams, SetParams } from '../sets/find';
import { addMasters } from './take-in';
import { changeMarks, inSet, putInOrder } from './marks';
import { queueReading } from './queue-reading';

/** Masters that one call lists at most: what a screen asks for in one go. */
const MOST_AT_ONCE = 500;

export function addMasterCalls(api: Api, { database, files }: Services): void {
  const { masters, runs, sequelize } = database;

  const Window = z.object({
    from: z.coerce.number().int().min(0).default(0),
    count: z.coerce.number().int().min(1).max(MOST_AT_ONCE).default(MOST_AT_ONCE),
  });
  api.add(
    {
      ...{ method: 'get', path: '/api/sets/{setId}/masters', params: SetParams, query: Window, answer: MasterPage },
      summary: 'A part of the masters of a set, in set order',
    },
    async ({ params: { setId }, query: { from, count } }) => {
      await findSet(database, setId);
      const rows = await loadMasters(database, setId, { from, count });
      // Whoever asks for a part that is not full has seen the end.
      const total = rows.length > 0 && rows.length < count ? from + rows.length : await masters.count({ where: inSet(setId) });
      return new MadeJson(Buffer.from(`{"masters":[${rows.map(masterJson).join(',')}],"total":${total}}`));
    },
  );

  api.add(
    {
      method: 'get',
      path: '/api/masters/{masterId}',
      summary: 'All that is known of a master',
      params: MasterParams,
      answer: MasterDetail,
    },
    async ({ params }) => masterDetail(await findMaster(database, params.masterId)),
  );

  api.add(
    {
      ...{
        method: 'post',
        path: '/api/sets/{setId}/masters/again',
        params: SetParams,
        body: TwinsWanted,
        answer: UploadResult,
        status: 201,
      },
      summary: 'Brings in files again whose content is in the set already',
    },
    async ({ params: { setId }, body }) => {
      await findSet(database, setId);
      const known = await masters.findAll({ where: { setId, sha256: body.twins.map(({ sha256 }) => sha256) } });
      const arrived = body.twins.flatMap(({ fileName, sha256 }) => {
        const twin = known.find((master) => master.sha256 === sha256);
        return twin ? [{ fileName, sha256, bytes: Number(twin.bytes), modified: twin.sourceMtimeMs }] : [];
      });
      const { rows, twins } = await sequelize.transaction((transaction) => addMasters(database, setId, arrived, 'add', transaction));
      return { masters: rows.map(masterView), twins };
    },
  );

  api.add(
    {
      ...{ method: 'put', path: '/api/sets/{setId}/marks', params: SetParams, body: MarksChange },
      summary: 'Stars, choice, tags and treatment of any number of pictures',
    },
    async ({ params: { setId }, body }) => {
      await findSet(database, setId);
      await changeMarks(database, setId, body.marks);
    },
  );

  api.add(
    {
      ...{ method: 'put', path: '/api/sets/{setId}/order', params: SetParams, body: SomeMasters },
      summary: 'The order of the set, which is that of the counter; pictures not named come behind',
    },
    async ({ params: { setId }, body }) => {
      await findSet(database, setId);
      await putInOrder(database, setId, body.masterIds);
    },
  );

  api.add(
    {
      ...{ method: 'post', path: '/api/sets/{setId}/masters/remove', params: SetParams, body: SomeMasters },
      summary: 'Takes pictures out of a set, into its bin',
    },
    async ({ params: { setId }, body }) => {
      await sequelize.transaction(async (transaction) => {
        // The set's row keeps a run from being started at the same moment.
        await database.sets.findByPk(setId, { transaction, lock: true });
        if (await runs.count({ where: { setId, state: 'running' }, transaction }))
          throw new HttpProblem(
            409,
            'run-under-way',
            'A run of this set is under way. Wait for its end or cancel it, then remove pictures.',
          );
        await masters.update({ removedAt: new Date() }, { where: { ...inSet(setId), id: body.masterIds }, transaction });
        await notify(sequelize, { about: 'masters', setId, ids: body.masterIds }, transaction);
      });
    },
  );

  api.add(
    {
      ...{ method: 'post', path: '/api/sets/{setId}/masters/restore', params: SetParams, body: SomeMasters },
      summary: 'Puts pictures back from the bin, where they were',
    },
    async ({ params: { setId }, body }) => {
      await sequelize.transaction(async (transaction) => {
        await masters.update({ removedAt: null }, { where: { setId, id: body.masterIds }, transaction });
        await notify(sequelize, { about: 'masters', setId, ids: body.masterIds }, transaction);
        await notify(sequelize, { about: 'order', setId, ids: [setId] }, transaction);
      });
    },
  );

  api.add(
    {
      ...{ method: 'post', path: '/api/sets/{setId}/masters/read-again', params: SetParams, body: SomeMasters },
      summary: 'Reads pictures again whose reading was given up, or whose metadata could not be read',
    },
    async ({ params: { setId }, body }) => {
      await sequelize.transaction(async (transaction) => {
        await findSet(database, setId, transaction);
        const rows = await masters.findAll({ where: { ...inSet(setId), id: body.masterIds, state: ['failed', 'ready'] }, transaction });
        await masters.update({ state: 'arriving', problem: null }, { where: { id: rows.map(({ id }) => id) }, transaction });
        await queueReading(database, setId, rows, transaction);
      });
    },
  );

  const Picture = z.object({ masterId: Id });
  const Kept = z.object({
    content: z.string().max(64).optional().meta({ description: 'As the master says; then browsers keep it for good' }),
  });
  api.add(
    {
      ...{ method: 'get', path: '/api/masters/{masterId}/thumbnail', params: Picture, query: Kept, media: { answer: 'image/jpeg' } },
      summary: 'A small sRGB picture',
    },
    async ({ params, query, request, response }) => {
      // Without its facts, which are most of a row: a screen asks for dozens of these at a time.
      const master = await masters.findByPk(params.masterId, { attributes: ['state', 'sha256'], raw: true });
      if (master?.state !== 'ready' || master.sha256 === null) throw notFound('thumbnail');
      // The file behind a master may change, and a page may not know that yet.
      const named = query.content === contentOf(master);
      const file = await files.masters.openSmallPicture(master.sha256);
      if (!file) throw notFound('thumbnail');
      response.setHeader('Cache-Control', named ? 'private, max-age=31536000, immutable' : AS_IT_IS_NOW);
      response.type('image/jpeg');
      await sendOpened(request, response, file);
    },
  );

  api.add(
    {
      ...{ method: 'get', path: '/api/masters/{masterId}/picture', params: Picture, media: { answer: 'image/*' } },
      summary: 'The master itself where a browser can show it, else its small picture',
    },
    async ({ params, request, response }) => {
      const master = await findMaster(database, params.masterId);
      const { state, facts, sha256 } = master;
      if (state !== 'ready' || !facts || sha256 === null) throw notFound('picture');
      const type = facts.colourModel === 'rgb' || facts.colourModel === 'grey' ? SHOWN_BY_BROWSERS[facts.format] : undefined;
      const file = type ? await files.masters.open(master) : await files.masters.openSmallPicture(sha256);
      if (!file) throw notFound('picture');
      response.setHeader('Cache-Control', AS_IT_IS_NOW);
      response.type(type ?? 'image/jpeg');
      await sendOpened(request, response, file);
    },
  );
}

/** Browsers ask each time whether theirs is still the newest. */
const AS_IT_IS_NOW = 'private, no-cache';

const SHOWN_BY_BROWSERS: Partial<Record<MasterFacts['format'], string>> = {
  jpeg: 'image/jpeg',
  png: 'image/png',
  webp: 'image/webp',
  avif: 'image/avif',
};
