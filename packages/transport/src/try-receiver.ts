import { createHash, randomBytes } from 'node:crypto';
import { mkdtemp, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { ProblemError, type Receiver, type ReceiverTest } from '@rundle/core';
import type { OnRecord } from './destination';
import { openMailServer } from './mail-server';
import { NotTrusted } from './trust';
import { openWebSpace } from './web-space';

/** Nothing was delivered before. */
const NOTHING: OnRecord = { hasBytes: () => Promise.resolve(false), has: () => Promise.resolve(false) };

/** Tries whether a receiver can be reached and takes a file; that file is removed again. */
export async function tryReceiver(receiver: Receiver, secret: string): Promise<ReceiverTest> {
  try {
    if (receiver.kind === 'smtp') {
      (await openMailServer(receiver, secret)).close();
      return { is: 'fine', says: 'The server answers and lets you in. No message was sent.' };
    }
    const space = await openWebSpace(receiver, secret);
    const folder = await mkdtemp(join(tmpdir(), 'rundle-try-'));
    try {
      const content = randomBytes(32);
      const [from, to] = [join(folder, 'try'), `rundle-try-${content.toString('hex', 0, 6)}.txt`];
      await writeFile(from, content);
      const file = { from, to, bytes: content.length, sha256: createHash('sha256').update(content).digest('hex') };
      await space.put(file, NOTHING);
      await space.remove(to, file);
    } finally {
      await space.close();
      await rm(folder, { recursive: true });
    }
    return { is: 'fine', says: 'A file was written, looked at and removed again.' };
  } catch (error) {
    if (error instanceof NotTrusted) return { is: 'unknown', says: error.message, fingerprint: error.fingerprint };
    return { is: 'refused', says: error instanceof ProblemError ? error.message : connectionWords(error) };
  }
}

const SAID: Record<string, string> = {
  ECONNREFUSED: 'Nothing answers there. Check address and port.',
  ENOTFOUND: 'There is no host of that name.',
  EAI_AGAIN: 'The name could not be looked up. Check the connection.',
  ETIMEDOUT: 'It does not answer. Check address and port.',
  ECONNRESET: 'The line broke.',
  ERR_SSL_WRONG_VERSION_NUMBER: 'It answers without encryption. Choose another kind of security, or another port.',
};

/** An error of a connection in words. */
export function connectionWords(error: unknown): string {
  const codes = [
    error,
    error instanceof Error ? error.cause : null,
    ...(error instanceof AggregateError ? (error.errors as unknown[]) : []),
  ];
  const code = codes.map((one) => (one instanceof Error && 'code' in one ? String(one.code) : '')).find((one) => one in SAID);
  if (code) return SAID[code]!;
  return `It could not be reached: ${error instanceof Error ? error.message : String(error)}.`;
}
