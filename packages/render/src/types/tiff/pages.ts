import type { BytesAt } from '../type';

/** A page of a TIFF, as its directory tells it (TIFF 6.0, section 2 and 8). */
export interface Page {
  width: number;
  height: number;
  /** Whether it is a smaller version of another one. */
  reduced: boolean;
  /** How its numbers become colours, and how they are packed: some are only in raw files. */
  photometric: number;
  compression: number;
  /** A whole JPEG that the page is, or points to: where in the file, in bytes. */
  jpeg: { at: number; length: number } | null;
  /** Whether a raw file of the open format says so of itself (DNG 1.7, DNGVersion). */
  isDng: boolean;
  /** Where further directories begin, in bytes. */
  within: number[];
}

const TAGS = {
  subfile: 254,
  width: 256,
  height: 257,
  compression: 259,
  photometric: 262,
  strip: 273,
  stripLength: 279,
  within: 330,
  jpeg: 513,
  jpegLength: 514,
  dng: 50_706,
} as const;
/** Bytes of a value of each type that whole numbers come in; others are passed over. */
const SIZES: Partial<Record<number, number>> = { 1: 1, 3: 2, 4: 4, 13: 4, 16: 8, 18: 8 };
/** How pages are packed that are JPEGs. */
const JPEG = [6, 7];
/** Directories, and values of one field, that are looked at: more are a mistake, or meant to harm. */
const MOST_PAGES = 2000;
const MOST_VALUES = 16;
const MOST_FIELDS = 4000;

/** The pages of a TIFF, in the order in which they hang together; what is broken ends the list. */
export async function pagesOf(bytesAt: BytesAt): Promise<Page[]> {
  const read = await reader(bytesAt);
  const pages: Page[] = [];
  const seen = new Set<number>();
  for (let at = await read.first(); at > 0 && !seen.has(at) && pages.length < MOST_PAGES;) {
    seen.add(at);
    const found = await read.directory(at);
    if (!found) break;
    pages.push(found.page);
    at = found.next;
  }
  return pages;
}

/** The directories that stand within a page. */
export async function pagesWithin({ within }: Page, bytesAt: BytesAt): Promise<Page[]> {
  const read = await reader(bytesAt);
  const found = await Promise.all(within.map((at) => read.directory(at)));
  return found.flatMap((one) => (one ? [one.page] : []));
}

/**
 * The page that is the picture, and how many there are to choose from: versions that are called smaller ones are left aside, and so are small ones where
 * another is four times as large.
 * @param wanted which of those, from 1; null, or one that there is not: the first
 * @returns `page`: its place among all of the file, from 0
 */
export function usedPage(pages: readonly Page[], wanted: number | null): { page: number; pages: number } {
  const whole = pages.flatMap((page, at) => (page.reduced ? [] : [{ ...page, at }]));
  const largest = Math.max(...whole.map(({ width, height }) => Math.max(width, height)));
  const isThumbnail = ({ width, height }: Page) => Math.max(width, height) <= Math.min(MOST_THUMBNAIL, largest / 4);
  const real = whole.filter((page) => !isThumbnail(page));
  return { page: (real[(wanted ?? 1) - 1] ?? real[0])?.at ?? 0, pages: Math.max(1, real.length) };
}

/** Long edge of what is taken for a thumbnail, in px (common practice, no source). */
const MOST_THUMBNAIL = 512;

async function reader(bytesAt: BytesAt) {
  const header = await bytesAt(0, 16);
  const isLittle = header[0] === 0x49;
  const numberIn = (bytes: Buffer, at: number, size: number): number => {
    if (at + size > bytes.length) return 0;
    if (size === 8) return Number(isLittle ? bytes.readBigUInt64LE(at) : bytes.readBigUInt64BE(at));
    return isLittle ? bytes.readUIntLE(at, size) : bytes.readUIntBE(at, size);
  };
  // BigTIFF has 8 bytes where the other has 4 (or 2, for how many fields there are).
  const isBig = numberIn(header, 2, 2) === 43;
  const [word, countSize, entrySize] = isBig ? [8, 8, 20] : [4, 2, 12];

  return {
    first: () => Promise.resolve(isBig ? numberIn(header, 8, 8) : numberIn(header, 4, 4)),

    async directory(at: number): Promise<{ page: Page; next: number } | null> {
      const count = numberIn(await bytesAt(at, countSize), 0, countSize);
      if (count === 0 || count > MOST_FIELDS) return null;
      const fields = await bytesAt(at + countSize, count * entrySize + word);
      if (fields.length < count * entrySize) return null;
      const values = new Map<number, number[]>();
      for (let index = 0; index < count; index++) {
        const entry = index * entrySize;
        const size = SIZES[numberIn(fields, entry + 2, 2)];
        const many = Math.min(MOST_VALUES, numberIn(fields, entry + 4, word));
        const tag = numberIn(fields, entry, 2);
        if (!size || !Object.values<number>(TAGS).includes(tag)) continue;
        const valueAt = entry + 4 + word;
        const isHere = size * many <= word;
        const data = isHere ? fields.subarray(valueAt, valueAt + word) : await bytesAt(numberIn(fields, valueAt, word), size * many);
        values.set(
          tag,
          Array.from({ length: many }, (_, which) => numberIn(data, which * size, size)),
        );
      }
      const value = (tag: number) => values.get(tag)?.[0] ?? 0;
      // In one strip, or by the older two tags (TIFF 6.0, section 22).
      const inStrip = JPEG.includes(value(TAGS.compression)) && values.get(TAGS.strip)?.length === 1;
      const jpeg = values.has(TAGS.jpeg)
        ? { at: value(TAGS.jpeg), length: value(TAGS.jpegLength) }
        : inStrip
          ? { at: value(TAGS.strip), length: value(TAGS.stripLength) }
          : null;
      const page: Page = {
        jpeg,
        width: value(TAGS.width),
        height: value(TAGS.height),
        reduced: (value(TAGS.subfile) & 1) === 1,
        photometric: value(TAGS.photometric),
        compression: value(TAGS.compression),
        isDng: values.has(TAGS.dng),
        within: values.get(TAGS.within) ?? [],
      };
      return { page, next: numberIn(fields, count * entrySize, word) };
    },
  };
}
