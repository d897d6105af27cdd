import { beginsWith, type FileFields, lossyFile, type ReadableType, type WritableType } from './type';

const settings = (rung: FileFields) => ({ type: 'jpeg' as const, progressive: rung.progressive, ...lossyFile(rung) });

export const jpeg = {
  label: 'JPEG',
  mediaType: 'image/jpeg',
  extensions: ['jpg', 'jpeg', 'jpe', 'jfif'],
  begins: (first) => beginsWith(first, [0xff, 0xd8, 0xff]), // ITU-T T.81, SOI and the next marker
  readBy: null,
  decodeMs: 14,
  use: 'For everything and everybody: every program opens it.',
  extension: 'jpg',
  lossy: true,
  bits: [8],
  transparency: false,
  keeps: ['grey', 'cmyk'],
  iptc: true,
  untagged: true,
  longest: 65_500, // ITU-T T.81, B.2.2
  chroma: 'sampled',
  inBrowsers: 4,
  needs: null,
  encodeMs: 45,
  besidePixels: 1100,
  settings,
  expectedBits: ({ aim, chroma }, scale) =>
    aim.by === 'quality' ? scale.jpeg(aim.quality, chroma) : scale.jpeg(80, chroma) + scale.matchStep(aim.match),
} as const satisfies ReadableType & WritableType<ReturnType<typeof settings>>;
