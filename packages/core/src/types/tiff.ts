import { beginsWith, type FileFields, type ReadableType, type WritableType } from './type';

const settings = ({ bits, compression }: FileFields) => ({ type: 'tiff' as const, bits, compression });

/** 16 bits against 8, by how they are compressed; fitted on the demo pictures. */
const DEEP = { zip: 1.18, lzw: 1.46 } as const;
/** More bits, as a logarithm, than pixels have: what is asked for then counts as it is. */
const UNCOMPRESSED = 20;

/** TIFF 6.0, section 2, and BigTIFF, in both orders of bytes. */
const STARTS = [
  [0x49, 0x49, 0x2a, 0x00],
  [0x4d, 0x4d, 0x00, 0x2a],
  [0x49, 0x49, 0x2b, 0x00],
  [0x4d, 0x4d, 0x00, 0x2b],
] as const;

export const tiff = {
  label: 'TIFF',
  mediaType: 'image/tiff',
  extensions: ['tif', 'tiff'],
  begins: (first) => STARTS.some((start) => beginsWith(first, start)),
  readBy: null,
  decodeMs: 26,
  use: 'For print and further work: without loss, up to 16 bits.',
  extension: 'tif',
  lossy: false,
  bits: [8, 16],
  transparency: true,
  keeps: ['grey', 'cmyk'],
  iptc: true,
  untagged: true,
  longest: 65_500, // it could write down more than is ever made
  chroma: null,
  inBrowsers: null,
  needs: null,
  encodeMs: 170,
  besidePixels: 1000,
  settings,
  expectedBits: ({ bits, compression }, scale) =>
    compression === 'none' ? UNCOMPRESSED : scale.ratio('tiff') + (bits === 8 ? 0 : DEEP[compression]),
} as const satisfies ReadableType & WritableType<ReturnType<typeof settings>>;
