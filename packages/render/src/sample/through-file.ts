import { type EncodedFileByType, type Expectation, FULL_CHROMA_FROM, type LossyFile, type Raster } from '@rundle/core';
import type { RenderedImage } from '../rungs';
import { writerOf } from '../types/registry';
import { Encoder } from '../write/encode';
import type { ScreenImage } from './picture';
import type { FoundFile } from './sample';

/** Whether the picture decides about its chroma. */
export const leavesChromaOpen = ({ chroma, aim, ceiling }: LossyFile): boolean =>
  chroma === 'auto' && !(aim.by === 'quality' && !ceiling && aim.quality >= FULL_CHROMA_FROM);

/**
 * A finished part through an encoder and back.
 * @param found what is known of the whole file
 * @param known the chroma of the whole file; null: not known
 */
export async function throughFile(
  image: RenderedImage,
  settings: Extract<EncodedFileByType, LossyFile>,
  found: FoundFile | null,
  known: FoundFile['chroma'],
): Promise<{ image: ScreenImage; quality: number; expected: Expectation[]; ownColours: boolean }> {
  const { aim, ceiling } = settings;
  const fixed = aim.by === 'quality' && !ceiling;
  const asked = aim.by === 'quality' ? aim.quality : QUALITY_FOR_MATCH;
  const quality = found?.quality ?? asked;
  const expected: Expectation[] = [];
  if (!fixed && !found) expected.push('quality');
  const { onGrid, quickly } = writerOf(settings.type);
  if (!onGrid) expected.push('blocks');
  // From the part alone it can only be guessed whether the whole picture has colours that halved chroma would smear.
  const isOpen = image.model === 'rgb' && leavesChromaOpen(settings);
  if (isOpen && onGrid && !known) expected.push('chroma');
  const sampled = isOpen && known ? { ...settings, chroma: known } : settings;
  const encoder = new Encoder(image, quickly ? quickly(sampled) : sampled);
  const { picture: decoded, ownColours } = await encoder.decode(await encoder.encode(quality));
  const picture = image.model === 'grey' ? firstChannel(decoded) : decoded;
  return { image: { picture, model: image.model, profile: ownColours ? image.profile : null }, quality, expected, ownColours };
}

/** Grey as it is, where a decoder gave it as three channels. */
function firstChannel({ width, height, channels, pixels }: Raster<Uint8Array>): Raster<Uint8Array> {
  return { width, height, channels: 1, pixels: Uint8Array.from({ length: width * height }, (_, at) => pixels[at * channels]!) };
}

/** What usually reaches a visual target, until it is known. */
const QUALITY_FOR_MATCH = 80;
