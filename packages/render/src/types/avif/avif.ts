import type { SettingsOf } from '@rundle/core';
import { pipelineOf } from '../pipeline';
import { asItIs, type Opener, openedAsItIs, type Writer } from '../type';

const isOf: Opener['isOf'] = ({ format, compression }) => format === 'heif' && compression === 'av1';

/** Of 0 to 9: how long the encoder looks for a smaller file. */
export const AVIF_EFFORT = 2;

export const avifOpener: Opener = { ...asItIs, isOf };

export const avifWriter: Writer<SettingsOf<'avif'>> = {
  encoder: (image) => (quality, chromaSubsampling) =>
    pipelineOf(image).avif({ quality, effort: AVIF_EFFORT, chromaSubsampling }).toBuffer(),
  open: openedAsItIs,
  isOf,
  onGrid: false,
  metadata: { apart: null },
};
