import { beginsWith, brandsOf, lettersOf, type ReadableType } from './type';

/** Of kinds that are no TIFF; in those that are, it shows further inside. */
const STARTS = ['FUJIFILMCCD-RAW', 'IIRO', 'IIRS', 'MMOR', 'FOVb'];

export const raw = {
  label: 'Raw',
  // None is registered for all kinds.
  mediaType: 'application/octet-stream',
  extensions: ['dng', 'cr2', 'cr3', 'nef', 'nrw', 'arw', 'raf', 'orf', 'rw2', 'pef', 'srw'],
  begins: (first) =>
    STARTS.some((start) => lettersOf(first, 0, start.length) === start) ||
    beginsWith(first, [0x49, 0x49, 0x55, 0x00]) ||
    brandsOf(first)[0] === 'crx ',
  readBy: null,
  decodeMs: 20,
} as const satisfies ReadableType;
