import { WEIGHED_AVIF } from '../plan/weighing';
import { heic } from './heic';
import { brandsOf, type FileFields, lossyFile, type QualityCurve, type ReadableType, type WritableType } from './type';

const settings = (rung: FileFields) => ({ type: 'avif' as const, ...lossyFile(rung) });

/** Fitted on photographs of `bench/src/pictures.ts`, those of even places; as is what full chroma adds, as a logarithm. */
const CURVE: QualityCurve = [
  [20, 11],
  [30, 19],
  [45, 46],
  [WEIGHED_AVIF, 75],
  [70, 84.2],
  [75, 87.5],
  [80, 91],
  [85, 93.4],
  [89, 95.8],
  [95, 98.8],
  [100, 99.8],
];
const FULL = 0.06;

export const avif = {
  label: 'AVIF',
  mediaType: 'image/avif',
  extensions: ['avif', 'avifs'],
  // Some are of the brand of all still pictures and name their own after it, as HEIC do; some name none at all.
  begins: (first) => {
    const brands = brandsOf(first);
    return /^(?:avif|avis)$/.test(brands[0] ?? '') || (brands[0] === 'mif1' && !heic.begins(first));
  },
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
  expectedBits: ({ aim, chroma }, scale) =>
    scale.ratio('avif') +
    (aim.by === 'match'
      ? scale.matchStep(aim.match)
      : scale.along('avif', aim.quality, CURVE) + (scale.sampling(aim.quality, chroma) === '4:4:4' ? FULL : 0)),
} as const satisfies ReadableType & WritableType<ReturnType<typeof settings>>;
