import { execFile } from 'node:child_process';
import { createWriteStream } from 'node:fs';
import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { pipeline } from 'node:stream/promises';
import { promisify } from 'node:util';
import { PresetGuess, Problem } from '@rundle/core';
import pLimit from 'p-limit';
import * as z from 'zod';
import type { Handlers } from '../http/handlers';
import { requestProblem } from '../http/problem';
import { goneWith } from '../samples/tasks';
import type { Services } from '../services';

/** The largest file that is looked at, in bytes: finished files for the web weigh far less. */
const MOST_BYTES = 150_000_000;
/** After so long it is not waited for any more, in ms; a stopped machine must not look like a file that cannot be read. */
const MOST_TIME = 300_000;
/** One at a time: each decodes a whole picture. */
const oneByOne = pLimit(1);
const run = promisify(execFile);

export function fromFileHandlers({ rundleProgram }: Pick<Services, 'rundleProgram'>) {
  return {
    guessPreset: async ({ query: { name }, request, response }) => {
      const folder = await mkdtemp(join(tmpdir(), 'rundle-like-'));
      const path = join(folder, 'file');
      try {
        let bytes = 0;
        await pipeline(
          request,
          async function* (parts: AsyncIterable<Buffer>) {
            for await (const part of parts) {
              bytes += part.length;
              if (bytes > MOST_BYTES)
                throw requestProblem(
                  'invalid',
                  `${name} weighs more than ${MOST_BYTES / 1e6} MB. Choose the finished file, not its master.`,
                );
              yield part;
            }
          },
          createWriteStream(path, { mode: 0o600 }),
        );
        return await oneByOne(() => look(path, name, goneWith(response).signal));
      } finally {
        await rm(folder, { recursive: true, force: true });
      }
    },
  } satisfies Partial<Handlers>;

  /** In a process of its own, as the command line does it. */
  async function look(path: string, name: string, signal: AbortSignal): Promise<PresetGuess> {
    signal.throwIfAborted();
    const args = [rundleProgram, 'preset-from', '--json', '--name', name, path];
    const { stdout } = await run(process.execPath, args, { signal, timeout: MOST_TIME, killSignal: 'SIGKILL', maxBuffer: 1e6 }).catch(
      // It tells what is wrong with a file, and ends with another code than 0.
      (error: unknown) => ({ stdout: (error as { stdout?: string }).stdout ?? '' }),
    );
    const told = Told.safeParse(stdout ? JSON.parse(stdout) : null).data;
    if (told && 'preset' in told) return told;
    throw requestProblem('invalid', told ? `${name}: ${told.error.message}` : `${name} could not be looked at. Try again.`);
  }
}

const Told = z.union([PresetGuess, z.object({ error: Problem })]);
