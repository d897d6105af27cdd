import { FILE_GONE } from '@rundle/core';
import { type Database, type MasterRow, type Masters, notify } from '@rundle/store';
import type { Handlers } from '../http/handlers';
import { inSet } from '../masters/marks';
import { queueReading } from '../masters/queue-reading';
import type { Services } from '../services';
import { findSet } from '../sets/find';
import { listFolder, type MachineFile, picturesIn } from './folders';

export function machineHandlers({ config, database, files }: Services) {
  return {
    listMachineFolder: ({ query }) => listFolder(query.path ?? null, config.roots),

    addFromMachine: async ({ setId, body }) => {
      await findSet(database, setId);
      let added = 0;
      let known = 0;
      const refused = await picturesIn(body.path, body.deeper, config.roots, files.masters, async (found) => {
        const fresh = await addFromMachine(database, setId, found);
        added += fresh;
        known += found.length - fresh;
      });
      return { added, known, refused };
    },

    checkMachineFiles: async ({ setId }) => {
      await findSet(database, setId);
      await lookAgain(database, files.masters, setId);
    },
  } satisfies Partial<Handlers>;
}

/** Puts files of the machine at the end of a set; those that are there already, by their place, are passed over. */
async function addFromMachine(database: Database, setId: string, files: readonly MachineFile[]): Promise<number> {
  const { sequelize, masters, sets } = database;
  return sequelize.transaction(async (transaction) => {
    await sets.findByPk(setId, { transaction, lock: true });
    const known = await masters.findAll({ where: inSet(setId), attributes: ['sourcePath'], transaction });
    const places = new Set(known.map(({ sourcePath }) => sourcePath));
    const last = (await masters.max<number | null, MasterRow>('position', { where: { setId }, transaction })) ?? -1;
    const rows = await masters.bulkCreate(
      files
        .filter(({ path }) => !places.has(path))
        .map(({ fileName, path, bytes, mtimeMs }, index) => ({
          setId,
          fileName,
          bytes,
          sourcePath: path,
          sourceMtimeMs: mtimeMs,
          sha256: null,
          position: last + 1 + index,
          state: 'arriving' as const,
          facts: null,
          problem: null,
        })),
      { transaction },
    );
    await queueReading(database, setId, rows, transaction);
    return rows.length;
  });
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
