import type { NextFunction, Request, Response } from 'express';
import { requestProblem } from './problem';

const SAFE = new Set(['GET', 'HEAD', 'OPTIONS']);

/**
 * Refuses what our own pages never send: requests under a foreign host name (DNS rebinding) and changes asked for by other
 * sites, by Sec-Fetch-Site (W3C Fetch Metadata) and, where a browser does not send it, by Origin.
 */
export function guardOrigin(request: Request, _response: Response, next: NextFunction): void {
  const host = (request.headers.host ?? '').toLowerCase();
  if (!/^(?:localhost|127\.0\.0\.1|\[::1\])(?::\d+)?$/.test(host))
    throw requestProblem('foreign-host', 'This server answers on this machine only; open it as http://127.0.0.1.');
  if (SAFE.has(request.method)) return next();
  const site = request.headers['sec-fetch-site'];
  const { origin } = request.headers;
  const foreign = site !== undefined ? site !== 'same-origin' && site !== 'none' : origin !== undefined && origin !== `http://${host}`;
  if (foreign) throw requestProblem('cross-site', 'Another web site may not change anything here.');
  next();
}
