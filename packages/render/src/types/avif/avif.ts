import type { SettingsOf } from '@rundle/core';
import { pipelineOf } from '../pipeline';
import { asItIs, type Opener, openedAsItIs, type Writer } from '../type';

const isOf: Opener['isOf'] = ({ format, compression }) => format === 'heif' && compression === 'av1';

export const avifOpener: Opener = { ...asItIs, isOf };

export const avifWriter: Writer<SettingsOf<'avif'>> = {
  encoder: (image) => (quality, chromaSubsampling) => pipelineOf(image).avif({ quality, effort: 2, chromaSubsampling }).toBuffer(),
  open: openedAsItIs,
  isOf,
  onGrid: false,
  metadata: { apart: null },
};
