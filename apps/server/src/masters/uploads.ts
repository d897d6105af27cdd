import { mkdirSync } from 'node:fs';
import { statfs } from 'node:fs/promises';
import { basename } from 'node:path';
import { Id, type Problem, problemOf, type UploadResult } from '@rundle/core';
import { masterView } from '@rundle/store';
import { FileStore } from '@tus/file-store';
import { Server } from '@tus/server';
import type { Express, Request, Response } from 'express';
import { HttpProblem, problemDetails } from '../http/problem';
import type { Services } from '../services';
import { findSet } from '../sets/find';
import { addMasters, takeIn } from './take-in';

export const UPLOADS = '/api/uploads';

/** Uploads that nobody goes on with are forgotten after so long, in ms. */
const EXPIRES = 7 * 24 * 3600 * 1000;
const LOOK_FOR_EXPIRED = 3600 * 1000;

/**
 * Takes uploads in by tus 1.0 (tus.io, "Resumable upload protocol"), so that they go on after a lost connection, a closed page or a restart.
 * Metadata: `setId`, `filename`, and `arrival`, a number by which uploads that overtake each other are put in order. The answer to the last part is an UploadResult.
 */
export function addUploads(app: Express, { config, database, storage, log }: Services): void {
  mkdirSync(storage.incoming, { recursive: true });
  const datastore = new FileStore({ directory: storage.incoming, expirationPeriodInMilliseconds: EXPIRES });
  const tus = new Server({
    ...{ path: UPLOADS, datastore, relativeLocation: true, respectForwardedHeaders: false, maxSize: config.uploadBytes },
    onUploadCreate: async (_request, { metadata, size }) => {
      const { setId, fileName } = read(metadata);
      if (size === 0)
        throw new Refusal(422, { code: 'empty', file: fileName, message: 'The file is empty. Copy it again from where it came.' });
      if (await isFull(storage.incoming, size ?? 0)) throw new Refusal(507, { ...NO_ROOM, file: fileName });
      await findSet(database, setId).catch((error: unknown) => {
        throw new Refusal(404, { ...problemOf(error), file: fileName });
      });
      return {};
    },
    onUploadFinish: async (_request, { id, metadata }) => {
      const { setId, fileName, arrival } = read(metadata);
      try {
        const stored = await takeIn(storage, `${storage.incoming}/${id}`, fileName);
        const { rows, twins } = await addMasters(database, setId, [stored], 'ask', arrival);
        const answer: UploadResult = { masters: rows.map(masterView), twins };
        return { status_code: 200, headers: { 'Content-Type': 'application/json' }, body: JSON.stringify(answer) };
      } catch (error) {
        throw new Refusal(422, { ...problemOf(error, 'not-stored'), file: fileName });
      } finally {
        await datastore.configstore.delete(id);
      }
    },
    // What went wrong is told as everywhere: as problem details.
    onResponseError: async (_request, error) => {
      if ('status_code' in error && error.status_code !== 500)
        return {
          status_code: error.status_code,
          body: asDetails(error.status_code, error.status_code === 413 ? tooHeavy(config.uploadBytes) : error.body),
        };
      if (await isFull(storage.incoming, 0)) return { status_code: 507, body: asDetails(507, JSON.stringify(NO_ROOM)) };
      log.error({ err: error }, 'upload failed');
      return { status_code: 500, body: asDetails(500, 'Something went wrong on the server. Its log says more; please try again.') };
    },
  });
  const handle = (request: Request, response: Response) => {
    // Nobody needs to fetch half a file.
    if (request.method === 'GET') throw new HttpProblem(405, 'no-download', 'Uploads cannot be fetched.');
    void tus.handle(request, response);
  };
  app.all(UPLOADS, handle);
  app.all(`${UPLOADS}/*id`, handle);
  const forget = () =>
    void tus.cleanUpExpiredUploads().catch((error: unknown) => log.error({ err: error }, 'old uploads were not forgotten'));
  forget();
  setInterval(forget, LOOK_FOR_EXPIRED).unref();
}

const NO_ROOM: Problem = {
  code: 'disk-full',
  message:
    'The disk of the machine that runs Rundle is full. Make room there, then bring the file in again: what has arrived is not sent twice.',
};

/** What stays free on the disk of the store whatever comes in, in bytes: the database has to go on. */
const SPARE = 64_000_000;

async function isFull(folder: string, wanted: number): Promise<boolean> {
  const { bavail, bsize } = await statfs(folder);
  return bavail * bsize < wanted + SPARE;
}

function read(metadata: Record<string, string | null> | undefined): { setId: string; fileName: string; arrival: number | null } {
  const setId = Id.safeParse(metadata?.['setId']);
  if (!setId.success) throw new Refusal(400, { code: 'invalid', message: 'The upload does not say which set it is for (metadata setId).' });
  const arrival = Number(metadata?.['arrival'] ?? NaN);
  return {
    setId: setId.data,
    fileName: cleanName(metadata?.['filename'] ?? undefined),
    arrival: Number.isFinite(arrival) ? arrival : null,
  };
}

/** An error as the protocol's server wants it: a status and what to answer. */
class Refusal extends Error {
  readonly body: string;

  constructor(
    readonly status_code: number,
    problem: Problem,
  ) {
    super(problem.message);
    this.body = JSON.stringify(problem);
  }
}

const tooHeavy = (most: number): string =>
  JSON.stringify({ code: 'too-heavy', message: `The file is heavier than ${Math.round(most / 1e6)} MB, the limit of this server.` });

/** Problem details of what was refused: by us, with a problem as JSON, or by the protocol, with a sentence. */
function asDetails(status: number, body: string): string {
  const ours = body.startsWith('{') ? (JSON.parse(body) as Problem) : { code: 'upload', message: body.trim() };
  return JSON.stringify(problemDetails(new HttpProblem(status, ours.code, ours.message, [ours])));
}

/** A name as people know it: without a path, without control characters, of a length that fits every disk. */
function cleanName(name: string | undefined): string {
  const cleaned = basename((name ?? '').replaceAll('\\', '/')).replace(/[\u0000-\u001f\u007f]/g, '');
  return cleaned.slice(-200) || 'unnamed';
}
