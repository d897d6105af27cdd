import { basename } from 'node:path';
import { type Problem, problemOf } from '@rundle/core';
import type { Storage } from '@rundle/store';
import busboy from 'busboy';
import type { Request } from 'express';
import { HttpProblem } from '../http/problem';
import { type Stored, storeUpload } from './take-in';

const MOST_FILES = 2000;

/**
 * Reads a multipart upload, file by file straight to disk.
 * @returns what came in and lies in the store, and what was refused with the reason
 */
export async function receiveFiles(request: Request, storage: Storage, most: number): Promise<{ stored: Stored[]; refused: Problem[] }> {
  if (!request.is('multipart/form-data')) throw new HttpProblem(415, 'not-multipart', 'Send the files as multipart/form-data.');
  const parser = busboy({ headers: request.headers, defParamCharset: 'utf8', limits: { fileSize: most, files: MOST_FILES } });
  const results: Promise<Stored | Problem>[] = [];
  parser.on('file', (_field, stream, { filename }) => {
    const fileName = cleanName(filename);
    results.push(
      storeUpload(storage, fileName, stream, most).catch((error: unknown) => {
        stream.resume(); // the rest of the refused file is read away, so that the next one is reached
        return { file: fileName, ...problemOf(error, 'not-stored') };
      }),
    );
  });
  await new Promise<void>((resolve, reject) => {
    parser.once('close', resolve);
    parser.once('error', (error) => reject(new HttpProblem(400, 'upload-broken', `The upload broke off: ${problemOf(error).message}.`)));
    request.once('aborted', () => parser.destroy(new Error('the connection was lost')));
    request.pipe(parser);
  });
  const ended = await Promise.all(results);
  return {
    stored: ended.filter((result) => 'sha256' in result),
    refused: ended.filter((result) => 'code' in result),
  };
}

/** A name as people know it: without a path, without control characters, of a length that fits every disk. */
function cleanName(name: string | undefined): string {
  const cleaned = basename((name ?? '').replaceAll('\\', '/')).replace(/[\u0000-\u001f\u007f]/g, '');
  return cleaned.slice(-200) || 'unnamed';
}
