import { lettersOf, type ReadableType } from './type';

export const psd = {
  label: 'PSD',
  mediaType: 'image/vnd.adobe.photoshop',
  extensions: ['psd', 'psb'],
  // Version 1, and version 2 for files above 30,000 px a side.
  begins: (first) => lettersOf(first, 0, 4) === '8BPS' && first[4] === 0 && (first[5] === 1 || first[5] === 2),
  readBy: null,
  decodeMs: 30,
} as const satisfies ReadableType;
