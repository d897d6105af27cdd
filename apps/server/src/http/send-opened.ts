import { pipeline } from 'node:stream/promises';
import type { OpenFile } from '@rundle/place';
import type { Request, Response } from 'express';

/** Bytes up to which a file is read in one go: a stream costs more than that. */
const SMALL = 128_000;

/**
 * Sends an opened file: whole, a part of it (RFC 9110, 14), or 304 when the browser's copy is still current. The header and the
 * bytes come from the same open handle.
 */
export async function sendOpened(request: Request, response: Response, file: OpenFile): Promise<void> {
  response.setHeader('Last-Modified', file.modified.toUTCString());
  response.setHeader('ETag', `"${file.bytes.toString(16)}-${file.modified.getTime().toString(16)}"`);
  response.setHeader('Accept-Ranges', 'bytes');
  if (request.fresh) {
    await file.close();
    response.status(304).end();
    return;
  }
  const ranges = request.headers['if-range'] === undefined ? request.range(file.bytes) : undefined;
  if (ranges === -1) {
    await file.close();
    response.status(416).setHeader('Content-Range', `bytes */${file.bytes}`).end();
    return;
  }
  const part = Array.isArray(ranges) && ranges.type === 'bytes' && ranges.length === 1 ? ranges[0] : undefined;
  if (part) response.status(206).setHeader('Content-Range', `bytes ${part.start}-${part.end}/${file.bytes}`);
  response.setHeader('Content-Length', part ? part.end - part.start + 1 : file.bytes);
  if (request.method === 'HEAD' || file.bytes === 0) {
    await file.close();
    response.end();
    return;
  }
  if (!part && file.bytes <= SMALL) {
    response.end(await file.readAll());
    return;
  }
  // A client that disconnects half-way is not an error.
  await pipeline(file.read(part), response).catch((error: unknown) => {
    if (!response.destroyed) throw error;
  });
}
