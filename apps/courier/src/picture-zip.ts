import { createHash } from 'node:crypto';
import { createWriteStream } from 'node:fs';
import { join } from 'node:path';
import { Transform } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { GALLERY_FILES, type GalleryFile } from '@rundle/core';
import { ZipFile } from 'yazl';
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
  const zip = new ZipFile();
  const hash = createHash('sha256');
  let bytes = 0;
  const counted = new Transform({
    transform(chunk: Buffer, _, next) {
      hash.update(chunk);
      bytes += chunk.length;
      next(null, chunk);
    },
  });
  zip.on('error', (error: Error) => counted.destroy(error));
  for (const { path, bytes: size } of pictures) {
    const name = path.slice(path.indexOf('/') + 1);
    // A picture does not get smaller in a ZIP. Each is opened when its turn comes.
    zip.addReadStreamLazy(name, { compress: false, size, mtime: NO_TIME }, (give) => {
      openSource(job, rows.get(path)!).then(
        (opened) => give(null, opened.read()),
        (error: unknown) => counted.destroy(error as Error),
      );
    });
  }
  zip.end();
  zip.outputStream.pipe(counted);
  await pipeline(counted, createWriteStream(join(await job.folder(), GALLERY_FILES.zip)), { signal: job.signal });
  return { bytes, sha256: hash.digest('hex') };
}
