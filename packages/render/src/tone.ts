import {
  activeTone,
  applyTone,
  type Finding,
  finding,
  pointsOf,
  type Raster,
  type RgbSpace,
  SPACES,
  type Tone,
  type ToneRung,
} from '@rundle/core';
import type { ConvertedImage } from './colour/convert';
import type { SourceColour } from './colour/source';
import type { SizedMaster } from './source';

/** What a master's numbers mean as light; null: only tables know. */
function lightOfSource(colour: SourceColour): RgbSpace | null {
  // One of our own: its tables are there already, and those of a profile that was just read are not.
  if (colour.kind === 'matrix') return colour.name ? SPACES[colour.name] : colour.space;
  return colour.kind === 'grey' ? { ...SPACES.srgb, curves: [colour.curve, colour.curve, colour.curve] } : null;
}

/**
 * A tone in the master's own colours, which hold more than the output's may.
 * @returns the picture itself where there is no tone; null where the tone has to wait until colours are converted
 */
export async function toneBefore(
  picture: Raster<Uint16Array>,
  sized: Pick<SizedMaster, 'source' | 'tones'>,
  rung: ToneRung,
): Promise<Raster<Uint16Array> | null> {
  const tone = activeTone(rung);
  if (!tone) return picture;
  const space = lightOfSource(sized.source.colour);
  return space && applyTone(picture, tone, await pointsFor(tone, sized), space);
}

/** The same in the colours of the output, for masters whose numbers only tables can read. */
export async function toneAfter(
  converted: ConvertedImage,
  sized: Pick<SizedMaster, 'source' | 'tones'>,
  rung: ToneRung,
): Promise<ConvertedImage> {
  const tone = activeTone(rung);
  if (!tone) return converted;
  if (!converted.name) return { ...converted, findings: [...converted.findings, LEFT_OUT] };
  return { ...converted, raster: applyTone(converted.raster, tone, await pointsFor(tone, sized), SPACES[converted.name]) };
}

const pointsFor = async (tone: Tone, { tones }: Pick<SizedMaster, 'tones'>) => pointsOf(tone, tone.auto ? await tones() : null);

const LEFT_OUT: Finding = finding(
  'tone-left-out',
  'The tone was left out: these colours are known by tables only, and are kept. Convert them to a space to change their tone.',
);
