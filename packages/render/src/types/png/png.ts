import type { SettingsOf } from '@rundle/core';
import { deepPipelineOf } from '../pipeline';
import { asItIs, type Opener, openedAsItIs, type Writer } from '../type';

const isOf: Opener['isOf'] = ({ format }) => format === 'png';
const METRES_PER_INCH = 0.0254;

export const pngOpener: Opener = { ...asItIs, isOf };

export const pngWriter: Writer<SettingsOf<'png'>> = {
  encoder:
    (image, { bits }) =>
    () =>
      deepPipelineOf(image, bits).png({ compressionLevel: 7, adaptiveFiltering: true }).toBuffer(),
  open: openedAsItIs,
  isOf,
  onGrid: false,
  metadata: {
    apart: null,
    // pHYs counts pixels per metre (ISO/IEC 15948, 11.3.4.3).
    resolution: (ppi) => {
      const perMetre = Math.round(ppi / METRES_PER_INCH);
      return { 'PNG-pHYs:PixelsPerUnitX#': perMetre, 'PNG-pHYs:PixelsPerUnitY#': perMetre, 'PNG-pHYs:PixelUnits#': 1 };
    },
  },
};
