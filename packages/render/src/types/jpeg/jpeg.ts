import { jpegQuality, type SettingsOf } from '@rundle/core';
import { pipelineOf } from '../pipeline';
import { asItIs, type BytesAt, type Opener, openedAsItIs, type Writer } from '../type';
import { codedPart, describingSegments, withDescribingSegments } from './segments';
import { luminanceTable } from './tables';

const isOf: Opener['isOf'] = ({ format }) => format === 'jpeg';

async function qualityIn(bytesAt: BytesAt): Promise<number | null> {
  const table = await luminanceTable(bytesAt);
  return table && jpegQuality(table);
}

export const jpegOpener: Opener = { ...asItIs, isOf, facts: async (bytesAt) => ({ jpegQuality: await qualityIn(bytesAt) }) };

export const jpegWriter: Writer<SettingsOf<'jpeg'>> = {
  encoder:
    (image, { progressive }) =>
    (quality, chromaSubsampling) =>
      pipelineOf(image).jpeg({ quality, progressive, chromaSubsampling }).toBuffer(),
  open: openedAsItIs,
  isOf,
  differs: ({ isProgressive }, { progressive }) =>
    isProgressive === progressive ? null : 'it is progressive where it should not be, or the other way round',
  // Every coefficient is read, but only every eighth pixel is worked out.
  readableAt: (width) => Math.max(1, width >> 3),
  onGrid: true,
  // Progressive or not, the coefficients are the same; baseline is encoded and decoded in half the time.
  quickly: (settings) => ({ ...settings, progressive: false }),
  codedPart,
  qualityIn,
  samplingOf: ({ chromaSubsampling }) => (chromaSubsampling === '4:4:4' || chromaSubsampling === '4:2:0' ? chromaSubsampling : null),
  metadata: {
    apart: { take: describingSegments, put: withDescribingSegments },
    // JFIF 1.02: unit 1 are inches.
    resolution: (ppi) => ({ 'JFIF:XResolution#': Math.round(ppi), 'JFIF:YResolution#': Math.round(ppi), 'JFIF:ResolutionUnit#': 1 }),
  },
};
