import type { SettingsOf } from '@rundle/core';
import { pipelineOf } from '../pipeline';
import { asItIs, type Opener, openedAsItIs, type Writer } from '../type';
import { contentXmpReaders } from './chunks';

const isOf: Opener['isOf'] = ({ format }) => format === 'webp';

/** Of 0 to 6: how long libwebp looks for a smaller file. */
export const WEBP_EFFORT = 4;

export const webpOpener: Opener = { ...asItIs, isOf };

export const webpWriter: Writer<SettingsOf<'webp'>> = {
  // WebP always halves chroma; the slower way to do it keeps saturated edges.
  encoder: (image) => (quality, chroma) =>
    pipelineOf(image)
      .webp({ quality, effort: WEBP_EFFORT, smartSubsample: chroma === '4:4:4' })
      .toBuffer(),
  open: openedAsItIs,
  isOf,
  onGrid: false,
  metadata: { apart: null, after: contentXmpReaders },
};
