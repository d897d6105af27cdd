import { beginsWith, type FileFields, lossyFile, type ReadableType, type WritableType } from './type';

const settings = (rung: FileFields) => ({ type: 'jxl' as const, ...lossyFile(rung) });

/** Against the JPEG of the same quality on the scale of `jpeg-xl-distance.ts`; fitted on the demo pictures. */
const HALF = Math.log(0.5);

/** As a codestream, or in a container (ISO/IEC 18181-2). */
const STARTS = [
  [0xff, 0x0a],
  [0x00, 0x00, 0x00, 0x0c, 0x4a, 0x58, 0x4c, 0x20],
] as const;

export const jxl = {
  label: 'JPEG XL',
  mediaType: 'image/jxl',
  extensions: ['jxl'],
  begins: (first) => STARTS.some((start) => beginsWith(first, start)),
  readBy: { programs: ['djxl'], package: 'libjxl-tools' },
  decodeMs: 60,
  use: 'For archives and apps that read it: much lighter than JPEG and finer in gradients.',
  extension: 'jxl',
  lossy: true,
  bits: [8],
  transparency: true,
  keeps: [],
  iptc: false,
  untagged: false,
  longest: 65_500, // it could write down more than is ever made
  chroma: 'own',
  inBrowsers: null,
  needs: { programs: ['cjxl', 'djxl'], package: 'libjxl-tools' },
  encodeMs: 260,
  besidePixels: 500,
  settings,
  expectedBits: ({ aim, chroma }, scale) =>
    HALF + (aim.by === 'quality' ? scale.jpeg(aim.quality, chroma) : scale.jpeg(80, chroma) + scale.matchStep(aim.match)),
} as const satisfies ReadableType & WritableType<ReturnType<typeof settings>>;
