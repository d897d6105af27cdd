import { createHash, randomUUID } from 'node:crypto';
import { createReadStream, createWriteStream } from 'node:fs';
import { chmod, link, mkdir, open, rename, rm, stat } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import type { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { NO_PICTURE, ProblemError, SNIFF_BYTES, sniffFormat } from '@rundle/core';
import { addJobs, type Database, type MasterRow, notify, type Storage } from '@rundle/store';

/** A file that has come in whole and lies in the store. */
export interface Stored {
  fileName: string;
  sha256: string;
  bytes: number;
}

/**
 * Streams an upload to disk while hashing it, and keeps it when it is a picture.
 * @param stream the bytes; `truncated` is set by the caller's parser when the limit was reached
 * @throws ProblemError when it is empty, too large or no picture; nothing is left behind
 */
export async function storeUpload(
  storage: Storage,
  fileName: string,
  stream: Readable & { truncated?: boolean },
  most: number,
): Promise<Stored> {
  await mkdir(storage.incoming, { recursive: true });
  const aside = join(storage.incoming, randomUUID());
  const hash = createHash('sha256');
  stream.on('data', (chunk: Buffer) => hash.update(chunk));
  try {
    await pipeline(stream, createWriteStream(aside, { flags: 'wx' }));
    if (stream.truncated)
      throw new ProblemError({
        code: 'too-heavy',
        file: fileName,
        message: `The file is heavier than ${Math.round(most / 1e6)} MB, the limit of this server.`,
      });
    const { size } = await stat(aside);
    await refuseOthers(aside, fileName, size);
    const sha256 = hash.digest('hex');
    const place = storage.master(sha256);
    await mkdir(dirname(place), { recursive: true });
    await chmod(aside, 0o444);
    await rename(aside, place);
    return { fileName, sha256, bytes: size };
  } finally {
    await rm(aside, { force: true });
  }
}

/** Takes a file of this machine into the store: by a hard link where the disk allows, else as a copy. */
export async function storeFile(storage: Storage, path: string, fileName: string): Promise<Stored> {
  const hash = createHash('sha256');
  for await (const chunk of createReadStream(path)) hash.update(chunk as Buffer);
  const sha256 = hash.digest('hex');
  const place = storage.master(sha256);
  await mkdir(dirname(place), { recursive: true });
  const { size } = await stat(path);
  await link(path, place).catch(async (error: unknown) => {
    if (error instanceof Error && 'code' in error && error.code === 'EEXIST') return;
    await storeUpload(storage, fileName, createReadStream(path), Infinity);
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

/** Puts stored files at the end of a set and asks the workers to read them. */
export async function addMasters(database: Database, setId: string, files: readonly Stored[]): Promise<MasterRow[]> {
  const { sequelize, masters, sets } = database;
  return sequelize.transaction(async (transaction) => {
    // The set's row is the lock that keeps two uploads from taking the same positions.
    await sets.findByPk(setId, { transaction, lock: true });
    const last = (await masters.max<number | null, MasterRow>('position', { where: { setId }, transaction })) ?? -1;
    const rows = await masters.bulkCreate(
      files.map((file, index) => ({ ...file, setId, position: last + 1 + index, state: 'arriving', facts: null, problem: null })),
      { transaction },
    );
    await addJobs(
      sequelize,
      transaction,
      'read-master',
      rows.map(({ id }) => ({ masterId: id })),
    );
    await notify(sequelize, { about: 'masters', setId, ids: rows.map(({ id }) => id) }, transaction);
    return rows;
  });
}
