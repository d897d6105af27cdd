import { stat } from 'node:fs/promises';
import { markOf } from '@rundle/place';

/** How long what was made of a file is kept after it was asked for last, in ms. */
const KEPT_MS = 5000;

let last: { key: string; made: Promise<Buffer>; forget: NodeJS.Timeout } | null = null;

/**
 * What the decoder is given for a file that it does not know, made once for all that is asked of that file one after the other: what it is, its
 * profile, its pixels, its transparency. Only the last one is kept, for a while.
 */
export async function madeOnce(path: string, make: () => Promise<Buffer>): Promise<Buffer> {
  const key = `${path} ${markOf(await stat(path, { bigint: true }))}`;
  if (last) clearTimeout(last.forget);
  const made = last?.key === key ? last.made : make();
  const forget = setTimeout(() => (last = null), KEPT_MS).unref();
  last = { key, made, forget };
  return made;
}
