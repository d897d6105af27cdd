import type { SettingsOf } from '@rundle/core';
import { deepPipelineOf } from '../pipeline';
import { pagesOf, usedPage } from './pages';
import { openTiffRows } from './rows';
import { asItIs, type Opener, openedAsItIs, type Writer } from '../type';

const isOf: Opener['isOf'] = ({ format }) => format === 'tiff';

/** The predictor of TIFF 6.0, section 14 makes photographs a fifth lighter. */
const COMPRESSIONS = {
  none: { compression: 'none' },
  lzw: { compression: 'lzw', predictor: 'horizontal' },
  zip: { compression: 'deflate', predictor: 'horizontal' },
} as const;

/** Strips and tiles stand for themselves. */
export const tiffOpener: Opener = {
  ...asItIs,
  isOf,
  inRows: true,
  openRows: openTiffRows,
  facts: async (bytesAt, page) => usedPage(await pagesOf(bytesAt), page),
};

export const tiffWriter: Writer<SettingsOf<'tiff'>> = {
  encoder:
    (image, { bits, compression }) =>
    () =>
      deepPipelineOf(image, bits).tiff(COMPRESSIONS[compression]).toBuffer(),
  open: openedAsItIs,
  isOf,
  onGrid: false,
  metadata: { apart: null },
};
