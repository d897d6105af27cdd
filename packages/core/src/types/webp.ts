import { WEIGHED_WEBP } from '../plan/weighing';
import { type FileFields, lettersOf, lossyFile, type QualityCurve, type ReadableType, type WritableType } from './type';

const settings = (rung: FileFields) => ({ type: 'webp' as const, ...lossyFile(rung) });

/** Fitted on the demo pictures. */
const CURVE: QualityCurve = { weighed: WEIGHED_WEBP, down: { to: 50, jpeg: 40, share: 0.52 }, up: { to: 90, jpeg: 92, share: 0.9 } };

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
  expectedBits: ({ aim }, scale) =>
    scale.ratio('webp') + (aim.by === 'match' ? scale.matchStep(aim.match) : scale.along(aim.quality, CURVE)),
} as const satisfies ReadableType & WritableType<ReturnType<typeof settings>>;
