import { PassThrough, type Readable } from 'node:stream';
import { ZipFile } from 'yazl';

/** A file that comes into a ZIP. */
export interface ZipEntry {
  /** `/` between levels. */
  path: string;
  bytes: number;
  /** Opens it; called when its turn comes, since thousands at a time would be too many. */
  open(): Promise<Readable>;
}

/**
 * A ZIP of files that are stored as they are: pictures do not get smaller in one. Its length is known before the first byte, where all are there.
 * Who does not read it to its end destroys it; what fails is told to whoever reads.
 * @param mtime of all files: the same files are the same bytes each time
 * @param first what is written into it by itself, before the others
 * @returns the ZIP, and its length in bytes
 * @throws what opening the first file throws, before anything can be read
 */
export async function storedZip(
  entries: readonly ZipEntry[],
  mtime: Date,
  first: ReadonlyMap<string, Buffer> = new Map(),
): Promise<{ output: Readable; size: number }> {
  const zip = new ZipFile();
  // No stream made by Readable.from: that one would wait for the next piece before it could be destroyed, and none comes after an error.
  const output = zip.outputStream.pipe(new PassThrough());
  // The first file is opened at once: it may have gone, and then nothing is to be told of a length.
  const failed = new Promise<never>((_, reject) => {
    zip.on('error', (error: Error) => {
      output.destroy(error);
      reject(error);
    });
  });
  failed.catch(() => {});
  output.on('error', () => {});
  let begin = (): void => {};
  const begun = new Promise<void>((resolve) => (begin = resolve));
  // What comes before it may be more than is taken unread.
  if (entries.length === 0 || first.size > 0) begin();
  let current: Readable | null = null;
  output.once('close', () => current?.destroy());
  const openNext = async (entry: ZipEntry): Promise<Readable> => {
    const stream = await entry.open();
    begin();
    current = stream;
    stream.once('error', (error) => zip.emit('error', error));
    if (output.destroyed) stream.destroy();
    return stream;
  };
  for (const [path, content] of first) zip.addBuffer(content, path, { compress: false, mtime });
  for (const entry of entries)
    zip.addReadStreamLazy(entry.path, { compress: false, size: entry.bytes, mtime }, (give) => {
      openNext(entry).then(
        (stream) => give(null, stream),
        (error: unknown) => give(error, null as never),
      );
    });
  const ended = new Promise<number>((resolve) => zip.end({ forceZip64Format: false, comment: '' }, resolve as () => void));
  try {
    const [size] = await Promise.race([Promise.all([ended, begun]), failed]);
    return { output, size };
  } catch (error) {
    output.destroy();
    throw error;
  }
}
