import { WEIGHED_WEBP } from '../plan/weighing';
import { type FileFields, lettersOf, lossyFile, type QualityCurve, type ReadableType, type WritableType } from './type';

const settings = (rung: FileFields) => ({ type: 'webp' as const, ...lossyFile(rung) });

/** Fitted on photographs of `bench/src/pictures.ts`, those of even places; as is what keeping edges of colour adds, as a logarithm. */
const CURVE: QualityCurve = [
  [20, 30],
  [30, 40],
  [50, 60],
  [65, 69],
  [WEIGHED_WEBP, 75],
  [80, 81],
  [85, 86.5],
  [90, 92.3],
  [95, 96.3],
  [100, 99.3],
];
const SMART = 0.07;

export const webp = {
  label: 'WebP',
  mediaType: 'image/webp',
  extensions: ['webp'],
  begins: (first) => lettersOf(first, 0, 4) === 'RIFF' && lettersOf(first, 8, 12) === 'WEBP', // RFC 9649, 2.4
  readBy: null,
  decodeMs: 20,
  use: 'For web pages: lighter than JPEG, with transparency.',
  extension: 'webp',
  lossy: true,
  bits: [8],
  transparency: true,
  keeps: [],
  iptc: false,
  untagged: true,
  longest: 16_383, // RFC 9649, 2.5
  chroma: 'smart',
  inBrowsers: 2,
  needs: null,
  encodeMs: 240,
  besidePixels: 600,
  settings,
  expectedBits: ({ aim, chroma }, scale) =>
    scale.ratio('webp') +
    (aim.by === 'match'
      ? scale.matchStep(aim.match)
      : scale.along('webp', aim.quality, CURVE) + (scale.sampling(aim.quality, chroma) === '4:4:4' ? SMART : 0)),
} as const satisfies ReadableType & WritableType<ReturnType<typeof settings>>;
