import { createHash } from 'node:crypto';
import { createReadStream } from 'node:fs';
import { stat } from 'node:fs/promises';
import { pipeline } from 'node:stream/promises';

/** A file as it was seen: what tells one that was changed from one that was not, without reading it. */
export interface SeenFile {
  /** Absolute. */
  path: string;
  bytes: number;
  /** Time of the last change, ms since 1970. */
  mtimeMs: number;
}

/** A file as it stands now; null when there is none. */
export async function seenNow(path: string): Promise<SeenFile | null> {
  const there = await stat(path).catch(() => null);
  return there?.isFile() ? { path, bytes: there.size, mtimeMs: there.mtimeMs } : null;
}

/**
 * Reads a file to its end.
 * @returns the SHA-256 of its bytes; null when it is not what was seen (any more)
 * @throws when it is there and cannot be read
 */
export async function contentOf(seen: SeenFile): Promise<string | null> {
  const hash = createHash('sha256');
  try {
    await pipeline(createReadStream(seen.path), hash);
  } catch (error) {
    if ((await seenNow(seen.path)) === null) return null;
    throw error;
  }
  const now = await seenNow(seen.path);
  return now?.bytes === seen.bytes && now.mtimeMs === seen.mtimeMs ? hash.digest('hex') : null;
}
