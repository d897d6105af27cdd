import { randomUUID } from 'node:crypto';
import { chmod, copyFile, link, mkdir, open, rename, rm, stat } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { NO_PICTURE, ProblemError, SNIFF_BYTES, sniffFormat, type Twin } from '@rundle/core';
import { type Database, type MasterRow, notify, sha256Of, type Storage } from '@rundle/store';
import { Op, type Transaction } from 'sequelize';
import { inSet } from './marks';
import { queueReading } from './queue-reading';

/** A file that has come in whole and lies in the store. */
export interface Stored {
  fileName: string;
  sha256: string;
  bytes: number;
}

/**
 * Moves a file that has arrived into the store, addressed by the hash of its content, when it is a picture.
 * @param path the file; gone afterwards, whatever happens
 * @throws ProblemError when it is empty or no picture
 */
export async function takeIn(storage: Storage, path: string, fileName: string): Promise<Stored> {
  try {
    const { size } = await stat(path);
    await refuseOthers(path, fileName, size);
    const sha256 = await sha256Of(path);
    const place = storage.master(sha256);
    await mkdir(dirname(place), { recursive: true });
    await chmod(path, 0o444);
    await rename(path, place);
    return { fileName, sha256, bytes: size };
  } finally {
    await rm(path, { force: true });
  }
}

/** Takes a file of this machine into the store: by a hard link where the disk allows, else as a copy. */
export async function storeFile(storage: Storage, path: string, fileName: string): Promise<Stored> {
  const sha256 = await sha256Of(path);
  const place = storage.master(sha256);
  await mkdir(dirname(place), { recursive: true });
  const { size } = await stat(path);
  await link(path, place).catch(async (error: unknown) => {
    if (error instanceof Error && 'code' in error && error.code === 'EEXIST') return;
    await mkdir(storage.incoming, { recursive: true });
    const copy = join(storage.incoming, randomUUID());
    await copyFile(path, copy);
    await takeIn(storage, copy, fileName);
  });
  return { fileName, sha256, bytes: size };
}

async function refuseOthers(path: string, fileName: string, size: number): Promise<void> {
  if (size === 0)
    throw new ProblemError({ code: 'empty', file: fileName, message: 'The file is empty. Copy it again from where it came.' });
  const file = await open(path, 'r');
  try {
    const { buffer, bytesRead } = await file.read(Buffer.alloc(SNIFF_BYTES), 0, SNIFF_BYTES, 0);
    if (!sniffFormat(buffer.subarray(0, bytesRead))) throw new ProblemError({ code: 'unreadable', file: fileName, message: NO_PICTURE });
  } finally {
    await file.close();
  }
}

/**
 * Puts stored files at the end of a set and asks the workers to read them.
 * @param arrival where an upload belongs among others: several are sent at a time, and a light one overtakes a heavy one
 * @param twins what to do with a file whose content is in the set already: `ask` leaves it aside and says so
 */
export async function addMasters(
  database: Database,
  setId: string,
  files: readonly Stored[],
  twins: 'ask' | 'add',
  arrival: number | null = null,
): Promise<{ rows: MasterRow[]; twins: Twin[] }> {
  const { sequelize, masters, sets } = database;
  return sequelize.transaction(async (transaction) => {
    // The set's row is the lock that keeps two uploads from taking the same positions, or being the same picture.
    await sets.findByPk(setId, { transaction, lock: true });
    const known =
      twins === 'ask' ? await masters.findAll({ where: { ...inSet(setId), sha256: files.map(({ sha256 }) => sha256) }, transaction }) : [];
    const twinOf = (sha256: string) => known.find((master) => master.sha256 === sha256)?.fileName;
    const fresh = files.filter(({ sha256 }) => twinOf(sha256) === undefined);
    const first = await makeRoom(database, setId, fresh.length, arrival, transaction);
    const rows = await masters.bulkCreate(
      fresh.map((file, index) => ({ ...file, setId, position: first + index, arrival, state: 'arriving', facts: null, problem: null })),
      { transaction },
    );
    await queueReading(database, setId, rows, transaction);
    const left = files.flatMap(({ fileName, sha256 }) => {
      const of = twinOf(sha256);
      return of === undefined ? [] : [{ fileName, sha256, of }];
    });
    return { rows, twins: left };
  });
}

/** The first of so many free positions: at the end, or before what has overtaken this upload. */
async function makeRoom(
  { sequelize, masters }: Database,
  setId: string,
  count: number,
  arrival: number | null,
  transaction: Transaction,
): Promise<number> {
  const least = (where: object) => masters.min<number | null, MasterRow>('position', { where: { setId, ...where }, transaction });
  const before = arrival === null || count === 0 ? null : await least({ arrival: { [Op.gt]: arrival } });
  if (before === null) {
    const last = await masters.max<number | null, MasterRow>('position', { where: { setId }, transaction });
    return (last ?? -1) + 1;
  }
  await masters.increment('position', { by: count, where: { setId, position: { [Op.gte]: before } }, transaction });
  await notify(sequelize, { about: 'order', setId, ids: [setId] }, transaction);
  return before;
}
