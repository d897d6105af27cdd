import { NO_PICTURE, type Problem, ProblemDetails, SNIFF_BYTES, sniffFormat, type UploadResult, UPLOADS_PATH } from '@rundle/core';
import { Observable } from 'rxjs';
import type { DetailedError, Upload } from 'tus-js-client';

/** What is heard of a file while it is sent. */
export type UploadProgress =
  { kind: 'progress'; sent: number } | { kind: 'in'; result: UploadResult } | { kind: 'refused'; problem: Problem };

/** Pauses before a lost connection is tried again, in ms: a restart of the server is waited for. */
const RETRIES = [500, 1000, 2000, 4000, 8000, 15_000, 30_000];
/** Bytes that are sent at a time: what a lost connection costs at most. */
const PART = 16_000_000;

/**
 * Sends one file by tus. An upload of the same file to the same set that was broken off, even by closing the page, is gone on
 * with. What is no picture by its first bytes is not sent at all.
 * @param arrival uploads stand in the order of these numbers, whichever is through first
 */
export function sendFile(setId: string, file: File, arrival: number): Observable<UploadProgress> {
  return new Observable((observer) => {
    let upload: Upload | undefined;
    let over = false;
    const end = (last: UploadProgress) => {
      over = true;
      observer.next(last);
      observer.complete();
    };
    const send = async () => {
      const problem = await refusedAtOnce(file);
      if (problem) return end({ kind: 'refused', problem });
      // Not with the first page: most visits bring nothing in.
      const { Upload } = await import('tus-js-client');
      upload = new Upload(file, {
        endpoint: UPLOADS_PATH,
        metadata: { setId, filename: file.name, arrival: String(arrival), modified: String(file.lastModified) },
        retryDelays: RETRIES,
        chunkSize: PART,
        onShouldRetry: ({ originalResponse }) => isWorthRetrying(originalResponse?.getStatus() ?? 0),
        removeFingerprintOnSuccess: true,
        uploadDataDuringCreation: false,
        fingerprint: () => Promise.resolve(['rundle', setId, file.name, file.size, file.lastModified].join(' ')),
        onProgress: (sent) => observer.next({ kind: 'progress', sent }),
        onSuccess: ({ lastResponse }) => void resultOf(lastResponse.getBody(), upload?.url ?? '', file.name).then(end),
        onError: (error) => end({ kind: 'refused', problem: problemOf(error, file.name) }),
      });
      const [earlier] = await upload.findPreviousUploads();
      if (earlier) upload.resumeFromPreviousUpload(earlier);
      if (!over) upload.start();
    };
    send().catch(() => end({ kind: 'refused', problem: noAnswer(file.name) }));
    return () => {
      // Stopped by the user: the server may delete what has arrived.
      if (!over) void upload?.abort(true).catch(() => {});
      over = true;
    };
  });
}

/**
 * What came of an upload that is through. When the answer to its last part was lost, the server is asked for it until it answers; it
 * brings the file in once, however often it is asked.
 */
async function resultOf(body: string, url: string, fileName: string): Promise<UploadProgress> {
  if (body) return { kind: 'in', result: JSON.parse(body) as UploadResult };
  for (const pause of [...RETRIES, null]) {
    const response = await fetch(`${url}/finish`, { method: 'POST' }).catch(() => null);
    const text = (await response?.text().catch(() => '')) ?? '';
    if (response?.ok && text) return { kind: 'in', result: JSON.parse(text) as UploadResult };
    if (response && !isWorthRetrying(response.status)) return { kind: 'refused', problem: refusalOf(text, fileName) };
    if (pause !== null) await new Promise((resolve) => setTimeout(resolve, pause));
  }
  return { kind: 'refused', problem: noAnswer(fileName) };
}

/** A lost connection, a server that restarts or is busy with this upload: retrying helps. With a full disk it does not. */
const isWorthRetrying = (status: number): boolean => status === 0 || status === 409 || status === 423 || (status >= 500 && status !== 507);

async function refusedAtOnce(file: File): Promise<Problem | null> {
  if (file.size === 0) return { code: 'empty', file: file.name, message: 'The file is empty. Copy it again from where it came.' };
  try {
    const first = new Uint8Array(await file.slice(0, SNIFF_BYTES).arrayBuffer());
    return sniffFormat(first) ? null : { code: 'unreadable', file: file.name, message: NO_PICTURE };
  } catch {
    return { code: 'missing', file: file.name, message: 'The file cannot be read any more. Was it moved, or its disk taken away?' };
  }
}

function problemOf(error: Error, fileName: string): Problem {
  const body = (error as Partial<DetailedError>).originalResponse?.getBody();
  return refusalOf(body, fileName);
}

function refusalOf(body: string | undefined, fileName: string): Problem {
  const details = ProblemDetails.safeParse(parsed(body));
  return details.success ? { code: details.data.code, file: fileName, message: details.data.detail } : noAnswer(fileName);
}

const noAnswer = (file: string): Problem => ({
  code: 'upload-failed',
  file,
  message: 'The server did not answer. Check that Rundle is running, then bring the file in again: what has arrived is not sent twice.',
});

function parsed(text: string | undefined): unknown {
  try {
    return JSON.parse(text ?? '');
  } catch {
    return null;
  }
}
