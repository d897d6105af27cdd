import * as z from 'zod';
import type { MasterFacts } from '../facts/facts';
import type { Preset } from '../preset/schema';
import { type CarriedSize, Focus } from '../size/geometry';

/** What a photographer has decided about one master after its findings, beside what the presets say. */
export const Overrides = z.strictObject({
  assumeSrgb: z.boolean().default(false).meta({ description: 'Its colours are sRGB, though no profile says so' }),
  fillRights: z.boolean().default(false).meta({ description: 'Missing rights are filled from the studio, whatever the preset' }),
  dropPlace: z.boolean().default(false).meta({ description: 'Nothing of where it was made goes out, whatever the preset' }),
  focus: Focus.nullable().default(null).meta({ description: 'What stays in sight where a preset cuts to fill' }),
  without: z.array(z.uuid()).max(100).default([]).meta({ description: 'Presets that make nothing of it' }),
});
export type Overrides = z.infer<typeof Overrides>;

export const NO_OVERRIDES: Overrides = Overrides.parse({});

/** A preset as it is carried out for one master. An untouched copy has nothing that could be decided otherwise. */
export function presetWithOverrides(
  preset: Preset,
  { assumeSrgb, fillRights, dropPlace, focus }: Overrides,
): Omit<Preset, 'size'> & { size: CarriedSize } {
  const { colour, metadata, size } = preset;
  if (preset.file.type === 'original') return preset;
  return {
    ...preset,
    // Only where it counts, so that moving it makes nothing else out of date.
    size: focus && size.fit === 'cover' ? { ...size, focus } : size,
    colour: assumeSrgb ? { ...colour, untagged: 'srgb' } : colour,
    metadata: {
      ...metadata,
      ...(fillRights ? { rights: 'keep' as const, fill: true } : {}),
      ...(dropPlace ? { place: 'remove' as const } : {}),
    },
  };
}

/** The facts that go with it: what EXIF claims about colours does not count against the photographer's word. */
export const factsWithOverrides = (facts: MasterFacts, { assumeSrgb }: Overrides): MasterFacts =>
  assumeSrgb && facts.profile === null ? { ...facts, exifSpace: null } : facts;
