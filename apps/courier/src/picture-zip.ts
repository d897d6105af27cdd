import { createHash } from 'node:crypto';
import { createWriteStream } from 'node:fs';
import { join } from 'node:path';
import { pipeline } from 'node:stream/promises';
import { GALLERY_FILES, type GalleryFile } from '@rundle/core';
import { storedZip } from '@rundle/place';
import type { Job } from './job';
import { openSource } from './source';

/** What has been written beside the pictures of a delivery. */
export interface WrittenFile {
  bytes: number;
  sha256: string;
}

/** No picture has a time of its own in it: the same pictures give the same bytes, and those need not go again. The earliest time of a ZIP. */
const NO_TIME = new Date(1980, 0, 1);

/**
 * Writes the ZIP that a gallery offers.
 * @throws ProblemError `file-changed` when a picture is not what was checked
 */
export async function zipPictures(job: Job, pictures: readonly GalleryFile[]): Promise<WrittenFile> {
  const rows = new Map((await job.files()).map((row) => [row.path, row]));
  const entries = pictures.map(({ path, bytes }) => ({
    path: path.slice(path.indexOf('/') + 1),
    bytes,
    open: async () => (await openSource(job, rows.get(path)!)).read(),
  }));
  const to = join(await job.folder(), GALLERY_FILES.zip);
  const { output, size } = await storedZip(entries, NO_TIME);
  const hash = createHash('sha256');
  const hashed = async function* (parts: AsyncIterable<Buffer>) {
    for await (const part of parts) {
      hash.update(part);
      yield part;
    }
  };
  await pipeline(output, hashed, createWriteStream(to), { signal: job.signal });
  return { bytes: size, sha256: hash.digest('hex') };
}
