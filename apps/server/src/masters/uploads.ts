import { basename } from 'node:path';
import { Id, type Problem, ProblemError, type UploadResult, UPLOADS_PATH } from '@rundle/core';
import { isDatabaseAway, isDiskFull } from '@rundle/store';
import { EVENTS, Server, type Upload } from '@tus/server';
import type { Express, Request, Response } from 'express';
import { HttpProblem, notFound, problemDetails, requestProblem } from '../http/problem';
import type { Services } from '../services';
import { findSet } from '../sets/find';
import { Announced } from './announced';
import { Arrivals, type UploadAbout } from './arrivals';
import { UploadStore } from './upload-store';

/** Unfinished uploads are deleted after this long without activity, in ms. */
export const UPLOAD_EXPIRES = 7 * 24 * 3600 * 1000;

/**
 * Takes uploads in by tus 1.0 (tus.io, "Resumable upload protocol"), so that they go on after a lost connection, a closed page or a restart.
 * Metadata: `setId`, `filename`, `arrival`, a number by which uploads that overtake each other are put in order, and `modified`, the file's own
 * time in ms since 1970. The answer to the last part is an UploadResult; a client that missed it asks for it by POST to `.../finish`.
 * @returns looks after uploads that were left: to be called at the start and now and then
 */
export function addUploads(app: Express, services: Services): () => Promise<void> {
  const uploads = new Uploads(services);
  const tus = uploads.protocol();
  app.post(`${UPLOADS_PATH}/:id/finish`, async (request, response) => {
    const { id } = request.params;
    if (!/^[0-9a-f]{32}$/.test(id)) throw notFound('upload');
    try {
      response.json(await uploads.finish(id, 'The file'));
    } catch (error) {
      if (!(error instanceof Refusal)) throw error;
      throw new HttpProblem(error.status_code, error.problem.code, error.problem.message, [error.problem]);
    }
  });
  const handle = (request: Request, response: Response) => {
    // Partial files are not served, and other sites have no need for OPTIONS.
    if (request.method === 'GET') throw requestProblem('no-download', 'Uploads cannot be fetched.');
    if (request.method === 'OPTIONS') throw requestProblem('no-options', 'Uploads are for the pages of this server.');
    withoutCors(response);
    void tus.handle(request, response);
  };
  app.all(UPLOADS_PATH, handle);
  app.all(`${UPLOADS_PATH}/*id`, handle);
  return async () => {
    await tus.cleanUpExpiredUploads();
    await uploads.goOn();
  };
}

/** Uploads on their way, as the protocol's server asks about them. */
class Uploads {
  private readonly datastore: UploadStore;
  private readonly announced: Announced;
  private readonly arrivals: Arrivals;

  constructor(private readonly services: Services) {
    const { database, files } = services;
    this.datastore = new UploadStore(database.sequelize, {
      directory: files.masters.incoming,
      expirationPeriodInMilliseconds: UPLOAD_EXPIRES,
    });
    this.announced = new Announced(this.datastore, files.masters);
    this.arrivals = new Arrivals(services, this.datastore, aboutOf);
  }

  protocol(): Server {
    const tus = new Server({
      path: UPLOADS_PATH,
      datastore: this.datastore,
      relativeLocation: true,
      respectForwardedHeaders: false,
      maxSize: this.services.config.uploadBytes,
      onUploadCreate: async (_request, upload) => {
        await this.admit(upload);
        return {};
      },
      onUploadFinish: async (_request, { id, metadata }) => {
        const answer = await this.finish(id, aboutOf(metadata).fileName);
        return { status_code: 200, headers: { 'Content-Type': 'application/json' }, body: JSON.stringify(answer) };
      },
      // What went wrong is told as everywhere: as problem details.
      onResponseError: (_request, error) => this.answerTo(error),
    });
    tus.on(EVENTS.POST_TERMINATE, (_request, _response, id) => this.announced.forget(id));
    return tus;
  }

  /** What has come whole is taken in. @throws Refusal */
  async finish(id: string, fileName: string): Promise<UploadResult> {
    try {
      const answer = await this.arrivals.finish(id);
      this.announced.forget(id);
      return answer;
    } catch (error) {
      const refusal = refusalOf(error, fileName);
      if (refusal.status_code >= 500) this.services.log.warn({ err: error }, 'an upload could not be taken in yet; its bytes are kept');
      else this.announced.forget(id);
      throw refusal;
    }
  }

  /** Looks after what was left: whole ones are taken in, room is counted anew. */
  async goOn(): Promise<void> {
    await this.arrivals.finishLeft();
    await this.announced.count();
  }

  /** @throws Refusal when it cannot be taken */
  private async admit({ id, metadata, size }: Upload): Promise<void> {
    const { database, config } = this.services;
    const { setId, fileName } = aboutOf(metadata);
    if (size === 0)
      throw new Refusal(422, { code: 'empty', file: fileName, message: 'The file is empty. Copy it again from where it came.' });
    try {
      await findSet(database, setId);
      if (!(await this.announced.admit(id, size ?? config.uploadBytes))) throw new Refusal(507, { ...NO_ROOM, file: fileName });
    } catch (error) {
      throw refusalOf(error, fileName);
    }
  }

  private async answerTo(error: Error | { status_code: number; body: string }): Promise<{ status_code: number; body: string }> {
    if ('status_code' in error && error.status_code !== 500) {
      const { status_code: status, body } = error;
      const words = status !== 413 ? body : JSON.stringify(/^Maximum/.test(body) ? tooHeavy(this.services.config.uploadBytes) : TOO_LONG);
      return { status_code: status, body: asDetails(status, words) };
    }
    if (!(await this.announced.hasRoom(0))) return { status_code: 507, body: asDetails(507, JSON.stringify(NO_ROOM)) };
    this.services.log.error({ err: error }, 'upload failed');
    return { status_code: 503, body: asDetails(503, JSON.stringify(LATER)) };
  }
}

/**
 * Takes back what tus says to pages of other sites (WHATWG Fetch, 3.2): our own are of the same origin, and no other origin is allowed.
 */
function withoutCors(response: Response): void {
  const isCors = (name: unknown) => String(name).toLowerCase().startsWith('access-control-');
  const writeHead = response.writeHead.bind(response) as (...call: unknown[]) => Response;
  response.writeHead = ((...call: unknown[]) => {
    const kept = call.map((part) => {
      if (Array.isArray(part)) return (part as unknown[]).filter((_, at) => !isCors((part as unknown[])[at - (at % 2)]));
      return part !== null && typeof part === 'object' ? Object.fromEntries(Object.entries(part).filter(([name]) => !isCors(name))) : part;
    });
    return writeHead(...kept);
  }) as Response['writeHead'];
}

const NO_ROOM: Problem = {
  code: 'disk-full',
  message:
    'The disk of the machine that runs Rundle is full. Make room there, then bring the file in again: what has arrived is not sent twice.',
};

const LATER: Problem = {
  code: 'not-stored-yet',
  message: 'The file has arrived and could not be stored just now. It is kept, and tried again.',
};

const TOO_LONG: Problem = {
  code: 'longer-than-announced',
  message: 'More came than was announced: the file has changed while it was sent. Bring it in again.',
};

const tooHeavy = (most: number): Problem => ({
  code: 'too-heavy',
  message: `The file is heavier than ${Math.round(most / 1e6)} MB, the limit of this server.`,
});

/** @throws Refusal when the metadata do not say what for */
function aboutOf(metadata: Record<string, string | null> | undefined): UploadAbout {
  const setId = Id.safeParse(metadata?.['setId']);
  if (!setId.success) throw new Refusal(400, { code: 'invalid', message: 'The upload does not say which set it is for (metadata setId).' });
  const numberOf = (name: string) => {
    const value = metadata?.[name] ? Number(metadata[name]) : NaN;
    return Number.isFinite(value) && Math.abs(value) < 8.64e15 ? value : null; // the span of a JavaScript date
  };
  return {
    setId: setId.data,
    fileName: cleanName(metadata?.['filename'] ?? undefined),
    arrival: numberOf('arrival'),
    modified: numberOf('modified'),
  };
}

/** An error as the protocol's server wants it: a status and what to answer. */
class Refusal extends Error {
  readonly body: string;

  constructor(
    readonly status_code: number,
    readonly problem: Problem,
  ) {
    super(problem.message);
    this.body = JSON.stringify(problem);
  }
}

/** Errors that the sender can fix are final; all others may be temporary, so the bytes are kept for a retry. */
function refusalOf(error: unknown, fileName: string): Refusal {
  if (error instanceof Refusal) return error;
  if (error instanceof HttpProblem) return new Refusal(error.status, { code: error.code, message: error.message, file: fileName });
  if (error instanceof ProblemError) return new Refusal(422, { ...error.problem, file: fileName });
  if (hasStatus(error)) return new Refusal(error.status_code, { code: 'upload', file: fileName, message: error.body.trim() });
  if (!isDatabaseAway(error) && isDiskFull(error)) return new Refusal(507, { ...NO_ROOM, file: fileName });
  return new Refusal(503, { ...LATER, file: fileName });
}

/** Errors of the protocol's own server. */
const hasStatus = (error: unknown): error is { status_code: number; body: string } =>
  typeof error === 'object' && error !== null && 'status_code' in error && 'body' in error;

/** Problem details of what was refused: by us, with a problem as JSON, or by the protocol, with a sentence. */
function asDetails(status: number, body: string): string {
  const ours: Problem = body.startsWith('{') ? (JSON.parse(body) as Problem) : { code: 'upload', message: body.trim() };
  return JSON.stringify(problemDetails(new HttpProblem(status, ours.code, ours.message, [ours])));
}

/** A name as people know it: without a path, without control characters and broken letters, of a length that fits every disk. */
function cleanName(name: string | undefined): string {
  const cleaned = basename((name ?? '').replaceAll('\\', '/')).replace(/[\u0000-\u001f\u007f]|\p{Surrogate}/gu, '');
  return [...cleaned].slice(-200).join('') || 'unnamed';
}
