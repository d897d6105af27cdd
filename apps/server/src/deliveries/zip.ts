import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { createReadStream } from 'node:fs';
import { stat } from 'node:fs/promises';
import { join } from 'node:path';
import { fileSafe } from '@rundle/core';
import { storedZip, type ZipEntry } from '@rundle/place';
import { type DeliveryFileRow, type OnRecord, openAsMade, type Outputs } from '@rundle/store';
import type { Request, Response } from 'express';
import { requestProblem } from '../http/problem';

/** Where the files of a delivery lie. */
interface Sources {
  outputs: Outputs;
  /** Folder of what was made for the delivery. */
  made: string;
}

/** A file that comes into the ZIP. */
export type ZipRow = Pick<DeliveryFileRow, 'path' | 'bytes' | 'outputId' | 'target' | 'folder' | 'fileName' | 'sha256'> & {
  /** By which it is known to be unchanged. */
  mark?: string | null;
};

/** What a ZIP is about: a name, when it was begun, and a tag that is another one when its bytes are. */
interface ZipAbout {
  title: string;
  at: Date;
  tag: string;
}

/**
 * Sends a ZIP, or a part of it (RFC 9110, 14): the same files are the same bytes each time, so that a download that broke off goes on.
 * @throws HttpProblem `output-missing` when a file is not as it was made, before the first byte has been sent
 */
export async function sendZip(
  rows: readonly ZipRow[],
  sources: Sources,
  { title, at, tag: name }: ZipAbout,
  { request, response }: { request: Request; response: Response },
): Promise<void> {
  const { output, size } = await storedZip(await entriesOf(rows, sources), at);
  response.once('close', () => output.destroy());
  const tag = `"${name}"`;
  response.setHeader('ETag', tag);
  response.setHeader('Accept-Ranges', 'bytes');
  response.setHeader('Cache-Control', 'private, no-cache');
  response.setHeader('Content-Type', 'application/zip');
  response.attachment(`${fileSafe(title)}.zip`);
  const isSame = request.headers['if-range'] === undefined || request.headers['if-range'] === tag;
  const ranges = isSame ? request.range(size) : undefined;
  if (ranges === -1) {
    response.status(416).setHeader('Content-Range', `bytes */${size}`).end();
    return;
  }
  const part = Array.isArray(ranges) && ranges.type === 'bytes' && ranges.length === 1 ? ranges[0]! : null;
  if (part) response.status(206).setHeader('Content-Range', `bytes ${part.start}-${part.end}/${size}`);
  response.setHeader('Content-Length', part ? part.end - part.start + 1 : size);
  if (request.method === 'HEAD') {
    response.end();
    return;
  }
  await pipeline(part ? Readable.from(within(output, part.start, part.end)) : output, response).catch((error: unknown) => {
    if (!response.destroyed) throw error; // otherwise the client disconnected half-way
  });
}

/** @throws HttpProblem `output-missing` */
async function entriesOf(rows: readonly ZipRow[], sources: Sources): Promise<ZipEntry[]> {
  const entries: ZipEntry[] = [];
  for (const row of rows) {
    const bytes = Number(row.bytes);
    if ((await sizeOf(row, sources)) !== bytes) throw gone(row);
    const openRow = async () => {
      const stream = await open(row, sources);
      if (!stream) throw gone(row);
      return stream;
    };
    entries.push({ path: row.path, bytes, open: openRow });
  }
  return entries;
}

const gone = ({ path }: ZipRow) =>
  requestProblem('output-missing', `${path} is no longer in the folder of outputs, or not as it was made. Run the set again.`);

/** A part of a stream, both ends included, in bytes. */
async function* within(stream: Readable, start: number, end: number): AsyncGenerator<Buffer> {
  let at = 0;
  for await (const chunk of stream as AsyncIterable<Buffer>) {
    const from = Math.max(0, start - at);
    const to = Math.min(chunk.length, end + 1 - at);
    if (from < to) yield chunk.subarray(from, to);
    at += chunk.length;
    if (at > end) return;
  }
}

async function sizeOf(row: ZipRow, { outputs, made }: Sources): Promise<number | null> {
  if (row.outputId === null) return (await stat(join(made, row.path)).catch(() => null))?.size ?? null;
  const file = await openAsMade(outputs, onRecord(row));
  await file?.close();
  return file?.bytes ?? null;
}

async function open(row: ZipRow, { outputs, made }: Sources): Promise<Readable | null> {
  if (row.outputId === null) return createReadStream(join(made, row.path));
  return (await openAsMade(outputs, onRecord(row)))?.read() ?? null;
}

/** Outputs of the first releases have no content on record. */
export const onRecord = ({ outputId, target, folder, fileName, bytes, sha256, mark }: ZipRow): OnRecord => ({
  id: outputId!,
  target: target!,
  folder: folder!,
  fileName: fileName!,
  bytes: Number(bytes),
  content: sha256 || null,
  mark: mark ?? null,
});
