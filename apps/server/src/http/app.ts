import { join } from 'node:path';
import express, { type ErrorRequestHandler, type Express, type RequestHandler } from 'express';
import helmet from 'helmet';
import type { Logger } from 'pino';
import { isDatabaseAway, isDiskFull } from '@rundle/store';
import { backupHandlers } from '../backups/handlers';
import { GalleryViews } from '../deliveries/gallery-views';
import { deliveryHandlers } from '../deliveries/handlers';
import { eventHandlers } from '../events/handlers';
import { handOverHandlers } from '../hand-over/handlers';
import { machineHandlers } from '../machine/handlers';
import { masterHandlers } from '../masters/handlers';
import { feedHandlers } from '../samples/feed-handlers';
import { healthHandlers } from '../health/handlers';
import { addUploads } from '../masters/uploads';
import { presetHandlers } from '../presets/handlers';
import { runHandlers } from '../runs/handlers';
import { receiverHandlers } from '../receivers/handlers';
import type { Services } from '../services';
import { sampleHandlers } from '../samples/handlers';
import { sheetHandlers } from '../sheets/handlers';
import { setHandlers } from '../sets/handlers';
import { standingOrderHandlers } from '../standing-orders/handlers';
import { storageHandlers } from '../storage/handlers';
import { studioHandlers } from '../studio/handlers';
import { vetHandlers } from '../vet/handlers';
import { watermarkHandlers } from '../watermarks/handlers';
import { workerHandlers } from '../workers/handlers';
import { addMetrics } from '../workers/metrics';
import { guardOrigin } from './guard';
import { limitTime } from './limit-time';
import { openApiDocument } from './openapi';
import { databaseAway, diskFull, HttpProblem, internalProblem, notFound, problemDetails } from './problem';
import { routesOf } from './routes';
import { refuseDeep } from './text-rule';

/**
 * Builds the whole HTTP application; listening is left to the caller.
 * @returns the application, and a function to call regularly that cleans up uploads
 */
export function buildApp(services: Services): { app: Express; lookAfterUploads: () => Promise<void> } {
  const app = express();
  const galleryViews = new GalleryViews(services);
  app.disable('x-powered-by');
  // Hashing a list for an ETag costs as much as making it; files have ETags of their own.
  app.set('etag', false);
  app.use(
    helmet({
      contentSecurityPolicy: {
        // Angular sets styles inline; all else comes from our own files only. On loopback there is no https to upgrade to.
        directives: {
          'default-src': ["'self'"],
          'script-src': ["'self'"],
          'style-src': ["'self'", "'unsafe-inline'"],
          'font-src': ["'self'"],
          'img-src': ["'self'", 'data:', 'blob:'],
          'connect-src': ["'self'"],
          'upgrade-insecure-requests': null,
        },
      },
      strictTransportSecurity: false,
    }),
  );
  app.use(tellOf(services.log));
  app.use(guardOrigin);
  app.use(limitTime);
  app.use(express.json({ limit: '2mb', verify: (_request, _response, body) => refuseDeep(body) }));
  app.use(
    routesOf({
      ...setHandlers(services),
      ...masterHandlers(services),
      ...machineHandlers(services),
      ...vetHandlers(services),
      ...presetHandlers(services),
      ...runHandlers(services),
      ...standingOrderHandlers(services),
      ...handOverHandlers(services),
      ...deliveryHandlers(services, galleryViews),
      ...receiverHandlers(services),
      ...eventHandlers(services),
      ...storageHandlers(services),
      ...studioHandlers(services),
      ...backupHandlers(services),
      ...watermarkHandlers(services),
      ...sampleHandlers(services),
      ...sheetHandlers(services),
      ...feedHandlers(services),
      ...healthHandlers(services),
      ...workerHandlers(services),
    }),
  );
  const lookAfterUploads = addUploads(app, services);
  galleryViews.addTo(app);
  addMetrics(app, services);
  const description = openApiDocument();
  app.get('/api/openapi.json', (_request, response) => void response.json(description));
  app.use('/api', () => {
    throw notFound('call');
  });
  addPages(app, services.config.web);
  app.use(answerProblem(services.log));
  return { app, lookAfterUploads };
}

/** One line for each request, with the ids in its address, by which it can be followed to the work and the files it led to. */
function tellOf(log: Logger): RequestHandler {
  return ({ method, path }, response, next) => {
    const begun = performance.now();
    response.once('close', () => {
      const ms = Math.round(performance.now() - begun);
      log.debug({ method, path, status: response.statusCode, ms, whole: response.writableFinished }, 'request');
    });
    next();
  };
}

/** Files of a build that have a hash of their content in their names. */
const HASHED = /-[A-Z0-9]{8}\.[a-z0-9]+$/;

/** The built web application; every address that is no file is one of its pages. */
function addPages(app: Express, web: string): void {
  app.use(
    express.static(web, {
      index: false,
      // Only what has its content in its name never changes under it.
      setHeaders: (response, path) =>
        response.setHeader('Cache-Control', HASHED.test(path) ? 'public, max-age=31536000, immutable' : 'no-cache'),
    }),
  );
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

/** Errors from elsewhere: the database cannot be reached, a body is not JSON, a file is gone. */
function foreignProblem(error: unknown): HttpProblem {
  if (isDatabaseAway(error)) return databaseAway();
  if (isDiskFull(error)) return diskFull();
  const status = error instanceof Error && 'status' in error ? Number(error.status) : 500;
  if (status === 404) return notFound('file');
  if (status >= 400 && status < 500) return new HttpProblem(status, 'bad-request', error instanceof Error ? error.message : 'Bad request.');
  return internalProblem();
}
