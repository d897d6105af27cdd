import { join } from 'node:path';
import express, { type ErrorRequestHandler, type Express } from 'express';
import helmet from 'helmet';
import type { Logger } from 'pino';
import { isDatabaseAway } from '@rundle/store';
import { addEventCalls } from '../events/calls';
import { addHandOverCalls } from '../hand-over/calls';
import { addMachineCalls } from '../machine/calls';
import { addMasterCalls } from '../masters/calls';
import { addUploads } from '../masters/uploads';
import { addPresetCalls } from '../presets/calls';
import { addRunCalls } from '../runs/calls';
import type { Services } from '../services';
import { addSetCalls } from '../sets/calls';
import { addStudioCalls } from '../studio/calls';
import { addVetCalls } from '../vet/calls';
import { addWatermarkCalls } from '../watermarks/calls';
import { Api } from './api';
import { guardOrigin } from './guard';
import { limitTime } from './limit-time';
import { databaseAway, HttpProblem, internalProblem, notFound, problemDetails } from './problem';
import { refuseDeep } from './text-rule';

/**
 * Builds the whole HTTP application; listening is left to the caller.
 * @returns it, and what has to be called now and then to look after uploads
 */
export function buildApp(services: Services): { app: Express; lookAfterUploads: () => Promise<void> } {
  const app = express();
  app.disable('x-powered-by');
  // To hash every list costs as much as to make it; files have tags of their own.
  app.set('etag', false);
  app.use(
    helmet({
      contentSecurityPolicy: {
        // Angular sets styles inline; all else comes from our own files only. On loopback there is no https to upgrade to.
        directives: {
          ...{ 'default-src': ["'self'"], 'script-src': ["'self'"], 'style-src': ["'self'", "'unsafe-inline'"], 'font-src': ["'self'"] },
          ...{ 'img-src': ["'self'", 'data:', 'blob:'], 'connect-src': ["'self'"], 'upgrade-insecure-requests': null },
        },
      },
      strictTransportSecurity: false,
    }),
  );
  app.use(guardOrigin);
  app.use(limitTime);
  app.use(express.json({ limit: '2mb', verify: (_request, _response, body) => refuseDeep(body) }));
  const api = new Api();
  addSetCalls(api, services);
  addMasterCalls(api, services);
  addMachineCalls(api, services);
  addVetCalls(api, services);
  addPresetCalls(api, services);
  addRunCalls(api, services);
  addHandOverCalls(api, services);
  addEventCalls(api, services);
  addStudioCalls(api, services);
  addWatermarkCalls(api, services);
  app.use(api.router);
  const lookAfterUploads = addUploads(app, services);
  const description = api.document();
  app.get('/api/openapi.json', (_request, response) => void response.json(description));
  app.use('/api', () => {
    throw notFound('call');
  });
  addPages(app, services.config.web);
  app.use(answerProblem(services.log));
  return { app, lookAfterUploads };
}

/** The built web application; every address that is no file is one of its pages. */
function addPages(app: Express, web: string): void {
  app.use(express.static(web, { index: false, maxAge: '1y', immutable: true }));
  app.get(/^\/[^.]*$/, (_request, response) => {
    response.setHeader('Cache-Control', 'no-cache');
    response.sendFile(join(web, 'index.html'));
  });
  app.use(() => {
    throw notFound('page');
  });
}

function answerProblem(log: Logger): ErrorRequestHandler {
  return (error: unknown, request, response, next) => {
    if (response.headersSent) return next(error);
    const problem = error instanceof HttpProblem ? error : foreignProblem(error);
    const { method, path } = request;
    if (problem.status >= 500) log[problem.status === 503 ? 'warn' : 'error']({ err: error, method, path }, 'request failed');
    if (problem.status === 503) response.setHeader('Retry-After', 2);
    response.status(problem.status).type('application/problem+json').json(problemDetails(problem));
  };
}

/** Errors of others: the database is away, a body is no JSON, a file is gone. */
function foreignProblem(error: unknown): HttpProblem {
  if (isDatabaseAway(error)) return databaseAway();
  const status = error instanceof Error && 'status' in error ? Number(error.status) : 500;
  if (status === 404) return notFound('file');
  if (status >= 400 && status < 500) return new HttpProblem(status, 'bad-request', error instanceof Error ? error.message : 'Bad request.');
  return internalProblem();
}
