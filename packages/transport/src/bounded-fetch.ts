import type { Readable } from 'node:stream';
import { ProblemError } from '@rundle/core';
import fetch, { type RequestInit, Response } from 'node-fetch';

/** The most bytes that an answer may have of which only its words count. */
const MOST_ANSWERED = 1_000_000;
/** A call that is not through after so long has failed, ms, if nothing else is said: a line may be slow, and a server may be busy. */
export const PATIENCE = 60_000;
/** The slowest line that is waited for, bytes per second. */
const SLOWEST = 10_000;
/** How often an answer may send on to another address of the same server. */
const MOST_REDIRECTS = 3;
/** Methods whose call can be made again, since it has no content. */
const REPEATABLE = new Set(['PROPFIND', 'GET', 'MKCOL', 'MOVE', 'DELETE']);

/** How long so many bytes may take, ms. */
export const longestFor = (bytes: number): number => PATIENCE + Math.ceil((1000 * bytes) / SLOWEST);

/** Ends a call that carries so many bytes when the line is too slow for it. */
export const endsAfter = (bytes: number): AbortSignal => AbortSignal.timeout(longestFor(bytes));

/**
 * Asks a server that may be hostile: what it answers is bounded in bytes and seconds, and it is never followed to another origin (RFC 6454), which
 * would be told who we are.
 * @throws ProblemError `receiver-refused`
 */
export async function boundedFetch(address: string, options: RequestInit): Promise<Response> {
  const method = options.method ?? 'GET';
  const signal = options.signal ?? AbortSignal.timeout(PATIENCE);
  let at = new URL(address);
  for (let redirects = 0; ; redirects++) {
    // Files are read by whoever asked for one, who knows how many bytes it has.
    const size = method === 'GET' ? 0 : MOST_ANSWERED;
    const response = await fetch(at.href, { ...options, signal, size, redirect: 'manual' });
    const location = response.status >= 300 && response.status < 400 ? response.headers.get('location') : null;
    if (location === null) return method === 'GET' && response.ok ? response : answered(response, at);
    (response.body as Readable | null)?.destroy();
    const next = new URL(location, at);
    if (next.origin !== at.origin || redirects === MOST_REDIRECTS || !REPEATABLE.has(method)) throw sentOn(at, next);
    at = next;
  }
}

/** The whole of an answer, read before its line is used again. */
async function answered(response: Response, { host }: URL): Promise<Response> {
  const { status, statusText, headers } = response;
  const body = await response.arrayBuffer().catch((error: unknown) => {
    if (error instanceof Error && 'type' in error && error.type === 'max-size') throw tooMuch(host);
    throw error;
  });
  return new Response(status === 204 || status === 304 ? null : Buffer.from(body), { status, statusText, headers });
}

/** An answer that does not end. */
export const tooMuch = (host: string): ProblemError =>
  new ProblemError({ code: 'receiver-refused', message: `${host} answers more than makes sense, and was given up. Check the address.` });

const sentOn = (from: URL, to: URL): ProblemError =>
  new ProblemError({
    code: 'receiver-refused',
    message: `${from.host} sends on to ${to.origin}, which was not told anything. If that is the web space, enter its address.`,
  });
