import { beginsWith, type FileFields, type ReadableType, type WritableType } from './type';

const settings = ({ bits }: FileFields) => ({ type: 'png' as const, bits });

/** Against a TIFF with ZIP, and 16 bits against 8; fitted on the demo pictures. */
const TO_TIFF = -0.05;
const DEEP = 1.18;

export const png = {
  label: 'PNG',
  mediaType: 'image/png',
  extensions: ['png'],
  begins: (first) => beginsWith(first, [0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a]), // ISO/IEC 15948, 5.2
  readBy: null,
  decodeMs: 26,
  use: 'For drawings and cut-outs: without loss, and heavy for photographs.',
  extension: 'png',
  lossy: false,
  bits: [8, 16],
  transparency: true,
  keeps: ['grey'],
  iptc: true,
  untagged: true,
  longest: 65_500, // it could write down more than is ever made
  chroma: null,
  inBrowsers: 3,
  needs: null,
  encodeMs: 330,
  besidePixels: 700,
  settings,
  expectedBits: ({ bits }, scale) => scale.ratio('tiff') + TO_TIFF + (bits === 8 ? 0 : DEEP),
} as const satisfies ReadableType & WritableType<ReturnType<typeof settings>>;
