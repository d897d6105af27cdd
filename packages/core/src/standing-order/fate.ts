import type { FileFate } from './standing-order';

/** A file of a watched folder as it was seen before. */
export interface KnownFile {
  bytes: number;
  /** Time of its last change, ms since 1970. */
  mtimeMs: number;
  /** SHA-256 of its bytes; null where it was never read, as of what lay there before. */
  sha256: string | null;
}

/** A file that was made here, with the content that is asked about. */
export interface MadeWithContent {
  /** Where it was put. */
  path: string;
  /** Whether it is its master unchanged, byte for byte. */
  isCopy: boolean;
}

/** Another file of the folder that is the same, byte for byte, and was taken or left. */
export interface SamePicture {
  path: string;
  /** Whether it is there still. */
  isThere: boolean;
}

type Stamp = Pick<KnownFile, 'bytes' | 'mtimeMs'>;

/** Whether nothing has happened to a file since it was seen: its content need not be read again. */
export const isUnchanged = (file: Stamp, known: readonly KnownFile[]): boolean =>
  known.some((one) => one.sha256 !== null && isSameStamp(file, one));

/**
 * Whether a file is one that lay there before and has not been read yet. That can wait: it only serves to know it again when it is touched, and a
 * folder may hold thousands.
 */
export const isUnread = (file: Stamp, known: readonly KnownFile[]): boolean =>
  !isUnchanged(file, known) && known.some((one) => one.sha256 === null && isSameStamp(file, one));

/**
 * What becomes of a file that has come to rest. A picture is known by its path and its content: the same path with another content is
 * another picture, and a file that was only touched is none. One that was renamed or moved is the same picture; a copy beside it is its twin.
 * @param sha256 of its bytes
 * @param known what was seen at its path before
 * @param made what was made here with that content
 * @param same files with its content at other paths
 * @returns `known` when that was decided before; `moved` when it is the same picture at another place
 */
export function fateOf(
  file: Stamp & { path: string; sha256: string },
  known: readonly KnownFile[],
  made: readonly MadeWithContent[],
  same: readonly SamePicture[] = [],
): Exclude<FileFate, 'refused'> | 'known' | 'moved' {
  if (known.some(({ sha256 }) => sha256 === file.sha256)) return 'known';
  if (known.some((one) => one.sha256 === null && isSameStamp(file, one))) return 'left';
  // A master that was delivered unchanged is no output of ours, wherever else it lies.
  if (made.some(({ path, isCopy }) => !isCopy || path === file.path)) return 'own';
  if (same.length === 0) return 'taken';
  return same.some(({ isThere }) => isThere) ? 'twin' : 'moved';
}

const isSameStamp = (a: Stamp, b: Stamp): boolean => a.bytes === b.bytes && a.mtimeMs === b.mtimeMs;
