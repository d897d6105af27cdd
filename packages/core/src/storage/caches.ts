import * as z from 'zod';

/** What is made anew when it is wanted: small pictures of outputs, pages and messages of deliveries that are over, trips through a feed. */
export const CACHES = ['output-thumbnails', 'deliveries', 'feed-trips'] as const;
export const CacheName = z.enum(CACHES);
export type CacheName = z.infer<typeof CacheName>;

/** What caches may take together, MB. */
export const CACHE_BOUND = { least: 50, usual: 2000, most: 1_000_000 } as const;

/** Something in a cache that is deleted as a whole. */
export interface CacheEntry {
  bytes: number;
  /** When it was made or used last, ms since 1970. */
  usedMs: number;
}

/**
 * What has to go so that caches keep within a bound: what has not been used for longest first.
 * @param bound bytes
 */
export function overBound<E extends CacheEntry>(entries: readonly E[], bound: number): E[] {
  let left = entries.reduce((sum, { bytes }) => sum + bytes, 0);
  const going: E[] = [];
  for (const entry of entries.toSorted((a, b) => a.usedMs - b.usedMs)) {
    if (left <= bound) break;
    going.push(entry);
    left -= entry.bytes;
  }
  return going;
}
