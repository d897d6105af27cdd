import { brandsOf, type ReadableType } from './type';

/** HEVC as a still picture and as a sequence, of 8 and of more bits (ISO/IEC 23008-12, annex B). */
const BRANDS = ['heic', 'heix', 'heim', 'heis', 'hevc', 'hevx', 'hevm', 'hevs'];

export const heic = {
  label: 'HEIC',
  mediaType: 'image/heic',
  extensions: ['heic', 'heif', 'hif'],
  begins: (first) => brandsOf(first).some((brand) => BRANDS.includes(brand)),
  readBy: { programs: ['heif-convert', 'heif-info'], package: 'libheif-examples' },
  decodeMs: 210,
} as const satisfies ReadableType;
