import { type Database, type MasterRow } from '@rundle/store';
import type { Transaction } from 'sequelize';
import { inSet, queueReading } from '../masters/queue-reading';
import type { MachineFile } from './folders';

/**
 * Puts files of the machine at the end of a set, and has them read; those that are there already, by their place, are passed over.
 * @returns the new masters
 */
export async function addFiles(
  database: Database,
  setId: string,
  files: readonly MachineFile[],
  transaction: Transaction,
): Promise<MasterRow[]> {
  const { masters, sets } = database;
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
  return rows;
}
