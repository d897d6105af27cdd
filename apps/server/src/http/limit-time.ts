import { UPLOADS_PATH } from '@rundle/core';
import type { NextFunction, Request, Response } from 'express';
import { requestProblem } from './problem';

/** How long a body may take to come in, in ms. Pictures take longer, but must not stand still. */
const WHOLE_BODY = 15_000;
const STANDSTILL = 60_000;

/** Ends requests whose body never arrives whole: each of them holds a connection. */
export function limitTime(request: Request, response: Response, next: NextFunction): void {
  if (request.path.startsWith(UPLOADS_PATH)) {
    request.setTimeout(STANDSTILL, () => request.destroy());
    return next();
  }
  const hasBody = request.headers['transfer-encoding'] !== undefined || Number(request.headers['content-length'] ?? 0) > 0;
  if (!hasBody) return next();
  const late = setTimeout(() => {
    if (request.readableEnded || request.complete) return;
    if (!response.headersSent) {
      response.setHeader('Connection', 'close');
      next(requestProblem('too-slow', 'The request did not come in whole in time. Send it again.'));
    }
    setTimeout(() => request.destroy(), 1000).unref();
  }, WHOLE_BODY);
  late.unref();
  const done = () => clearTimeout(late);
  request.once('end', done);
  request.once('close', done);
  next();
}
