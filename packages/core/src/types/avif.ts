import { WEIGHED_AVIF } from '../plan/weighing';
import { type FileFields, lettersOf, lossyFile, type QualityCurve, type ReadableType, type WritableType } from './type';

const settings = (rung: FileFields) => ({ type: 'avif' as const, ...lossyFile(rung) });

/** Fitted on the demo pictures. */
const CURVE: QualityCurve = { weighed: WEIGHED_AVIF, down: { to: 40, jpeg: 40, share: 1.2 }, up: { to: 80, jpeg: 92, share: 0.72 } };

export const avif = {
  label: 'AVIF',
  mediaType: 'image/avif',
  extensions: ['avif', 'avifs'],
  // ISO/IEC 14496-12 file type box; raw and HEIC files have other brands.
  begins: (first) => lettersOf(first, 4, 8) === 'ftyp' && /^(?:avif|avis|mif1)$/.test(lettersOf(first, 8, 12)),
  readBy: null,
  decodeMs: 45,
  use: 'For web pages of today: the lightest, and slow to make.',
  extension: 'avif',
  lossy: true,
  bits: [8],
  transparency: true,
  keeps: [],
  iptc: false,
  untagged: true,
  longest: 16_384, // AV1 specification, 5.9.5
  chroma: 'sampled',
  inBrowsers: 1,
  needs: null,
  encodeMs: 420,
  besidePixels: 900,
  settings,
  expectedBits: ({ aim }, scale) =>
    scale.ratio('avif') + (aim.by === 'match' ? scale.matchStep(aim.match) : scale.along(aim.quality, CURVE)),
} as const satisfies ReadableType & WritableType<ReturnType<typeof settings>>;
