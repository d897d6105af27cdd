import { randomUUID } from 'node:crypto';
import { mkdir, readFile, rename, rm, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { openAsMade, type OutputRow } from '@rundle/store';
import { notFound } from '../http/problem';
import type { Services } from '../services';

/** Longest side, px: twice as large as a contact sheet shows it, for dense screens. */
const LONG_EDGE = 480;

/** Where the small picture of an output is kept. @param data the data folder, @param content SHA-256 of the output */
export const outputThumbnailPath = (data: string, content: string): string =>
  join(data, 'cache/output-thumbnails', content.slice(0, 2), `${content}.jpg`);

/** What outputs are shown as in lists: small pictures of the very files, by their content, made once. */
export class OutputThumbnails {
  constructor(private readonly services: Pick<Services, 'config' | 'files' | 'samplers'>) {}

  /** @param dropped aborted when nobody waits for it any more @throws HttpProblem */
  async of(output: OutputRow, dropped: AbortSignal): Promise<Buffer> {
    const { config, files, samplers } = this.services;
    const kept = output.content === null ? null : outputThumbnailPath(config.data, output.content);
    const found = kept && (await readFile(kept).catch(() => null));
    if (found) return found;
    const file = await openAsMade(files.outputs, output);
    if (!file) throw notFound('file');
    const made = Buffer.from(await samplers.thumbnail(await file.path(), LONG_EDGE, dropped).finally(() => file.close()));
    if (kept) await keep(kept, made);
    return made;
  }
}

/** Moved into place, so that nobody reads half of it. */
async function keep(path: string, made: Buffer): Promise<void> {
  await mkdir(join(path, '..'), { recursive: true });
  const aside = `${path}.${randomUUID()}`;
  try {
    await writeFile(aside, made);
    await rename(aside, path);
  } catch {
    await rm(aside, { force: true }); // it is made anew the next time
  }
}
