import { join } from 'node:path';
import { FILE_GONE, type FolderUse, ProblemError } from '@rundle/core';
import { type Database, type Masters, notify } from '@rundle/store';
import type { Handlers } from '../http/handlers';
import { requestProblem } from '../http/problem';
import { inSet, queueReading } from '../masters/queue-reading';
import type { Services } from '../services';
import { findSet } from '../sets/find';
import { addFiles } from './add-files';
import { inRoots, listFolder, picturesIn } from './folders';

export function machineHandlers({ config, database, files }: Services) {
  const rootsOf = (use: FolderUse) => (use === 'writing' ? config.writeRoots : config.roots);
  return {
    listMachineFolder: ({ query: { path, use } }) => listFolder(path ?? null, rootsOf(use), use),

    makeMachineFolder: async ({ body: { path, name } }) => {
      const parent = await inRoots(path, config.writeRoots, 'writing');
      const made = join(parent, name);
      await files.outputs.makeFolder(made).catch((error: unknown) => {
        if (error instanceof ProblemError) throw requestProblem('no-place', error.problem.message, [error.problem]);
        throw requestProblem('no-place', `${made} cannot be made: a file of that name is there, or the folder may not be written to.`);
      });
      return listFolder(made, config.writeRoots, 'writing');
    },

    addFromMachine: async ({ setId, body }) => {
      await findSet(database, setId);
      let added = 0;
      let known = 0;
      const masterIds: string[] = [];
      const refused = await picturesIn(
        { folder: body.path, deeper: body.deeper, names: body.names },
        config.roots,
        files.masters,
        async (found) => {
          const fresh = await database.sequelize.transaction((transaction) => addFiles(database, setId, found, transaction));
          added += fresh.length;
          known += found.length - fresh.length;
          const sourcePath = found.map(({ path }) => path);
          const own = await database.masters.findAll({ where: { ...inSet(setId), sourcePath }, attributes: ['id'] });
          masterIds.push(...own.map(({ id }) => id));
        },
      );
      return { added, known, refused, masterIds };
    },

    checkMachineFiles: async ({ setId }) => {
      await findSet(database, setId);
      await lookAgain(database, files.masters, setId);
    },
  } satisfies Partial<Handlers>;
}

/** Compares masters on the machine with what they were when they were read. */
async function lookAgain(database: Database, store: Masters, setId: string): Promise<void> {
  const { sequelize, masters } = database;
  const rows = (await masters.findAll({ where: inSet(setId) })).filter(
    ({ sourcePath, state }) => sourcePath !== null && state !== 'arriving',
  );
  const found = await Promise.all(rows.map(async (row) => ({ row, now: await store.standing(row.sourcePath ?? '') })));
  const gone = found.filter(({ row, now }) => now === null && row.problem?.code !== FILE_GONE.code).map(({ row }) => row);
  const changed = found.flatMap(({ row, now }) =>
    now && (now.mtimeMs !== row.sourceMtimeMs || now.bytes !== Number(row.bytes) || row.problem?.code === FILE_GONE.code)
      ? [{ row, now }]
      : [],
  );
  if (gone.length + changed.length === 0) return;
  await sequelize.transaction(async (transaction) => {
    for (const row of gone) await row.update({ state: 'failed', problem: { ...FILE_GONE, file: row.fileName } }, { transaction });
    for (const { row, now } of changed)
      await row.update({ state: 'arriving', bytes: now.bytes, sourceMtimeMs: now.mtimeMs, sha256: null, problem: null }, { transaction });
    await notify(sequelize, { about: 'masters', setId, ids: gone.map(({ id }) => id) }, transaction);
    await queueReading(
      database,
      setId,
      changed.map(({ row }) => row),
      transaction,
    );
  });
}
