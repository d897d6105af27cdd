import type { WritableType } from './type';

/** No type of its own: the master's own bytes, as they are. */
export const original = {
  label: 'Untouched copy',
  mediaType: 'application/octet-stream',
  extensions: [],
  begins: () => false,
  use: 'For whoever shall have the master itself: its own bytes under a new name.',
  extension: '',
  lossy: false,
  bits: [8, 16],
  transparency: true,
  keeps: ['grey', 'cmyk'],
  iptc: true,
  untagged: true,
  longest: Infinity,
  chroma: null,
  inBrowsers: null,
  needs: null,
  encodeMs: 0,
  besidePixels: 0,
  settings: () => ({ type: 'original' as const }),
  expectedBits: () => 0, // it weighs what its master weighs
} as const satisfies WritableType<{ type: 'original' }>;
