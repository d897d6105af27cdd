import type { MasterFacts } from './facts';

/** How many bytes of a file {@link sniffFormat} wants to see. */
export const SNIFF_BYTES = 16;

const STARTS: readonly [MasterFacts['format'], readonly number[]][] = [
  ['jpeg', [0xff, 0xd8, 0xff]], // ITU-T T.81, SOI and the next marker
  ['png', [0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a]], // ISO/IEC 15948, 5.2
  ['tiff', [0x49, 0x49, 0x2a, 0x00]], // TIFF 6.0, section 2
  ['tiff', [0x4d, 0x4d, 0x00, 0x2a]],
  ['tiff', [0x49, 0x49, 0x2b, 0x00]], // BigTIFF
  ['tiff', [0x4d, 0x4d, 0x00, 0x2b]],
];

/**
 * What kind of picture a file is by its first bytes, whatever it is called; null when it is none that can be read.
 * @param first the first {@link SNIFF_BYTES} bytes, or fewer when the file is shorter
 */
export function sniffFormat(first: Uint8Array): MasterFacts['format'] | null {
  const found = STARTS.find(([, bytes]) => bytes.every((byte, at) => first[at] === byte));
  if (found) return found[0];
  const ascii = (from: number, to: number) => String.fromCharCode(...first.subarray(from, to));
  if (ascii(0, 4) === 'RIFF' && ascii(8, 12) === 'WEBP') return 'webp';
  // ISO/IEC 14496-12 file type box; raw and HEIC files have other brands.
  return ascii(4, 8) === 'ftyp' && /^(?:avif|avis|mif1)$/.test(ascii(8, 12)) ? 'avif' : null;
}

/** Said of every file that is no picture of ours. */
export const NO_PICTURE =
  'This is no picture that can be read here: JPEG, TIFF, PNG, WebP or AVIF. Raw files and HEIC have to be exported as one of these first.';
