import type { MasterFacts } from './facts';

/** For tests: a 24-megapixel sRGB JPEG of which nothing has to be said. */
export const soundFacts: MasterFacts = {
  format: 'jpeg',
  width: 6000,
  height: 4000,
  orientation: 1,
  bytes: 5e6,
  bits: 8,
  channels: 3,
  colourModel: 'rgb',
  alpha: false,
  pages: 1,

  profile: 'sRGB',
  sRgb: true,
  exifSpace: null,
  carries: [],
  captured: null,
  rating: null,
  keywords: [],
  title: null,
  caption: null,
  gps: false,
  camera: null,
  lens: null,
  rights: { creator: 'Orla Vessby', copyright: null, credit: null, terms: null, email: null, website: null, webStatement: null },
  jpegQuality: 92,
  likeness: null,
  outsideSrgb: null,
  proxy: null,
  metadataUnread: false,
};
