import * as z from 'zod';
import { line } from '../preset/fields';
import { Preset } from '../preset/schema';
import { Id, Time } from './sets';

const group = line(80).meta({ title: 'Group', description: 'The group that it stands in; empty: none' });

/** A stored preset with the version that its next outputs will name. */
export const StoredPreset = z
  .object({ id: Id, version: z.int(), preset: Preset, updatedAt: Time, group: group.default(''), favourite: z.boolean().default(false) })
  .meta({ id: 'StoredPreset' });
export type StoredPreset = z.infer<typeof StoredPreset>;

/** A preset as it was saved once; never changed. */
export const PresetVersion = z
  .object({ version: z.int(), madeAt: Time.nullable().meta({ description: 'Null where an earlier release saved it' }), preset: Preset })
  .meta({ id: 'PresetVersion' });
export type PresetVersion = z.infer<typeof PresetVersion>;

/** Where a preset stands in the library; what is not named stays. */
export const PresetArrangement = z
  .strictObject({
    group,
    favourite: z.boolean(),
    before: Id.nullable().meta({ description: 'The preset that it is put in front of; null: it goes to the end' }),
  })
  .partial()
  .meta({ id: 'PresetArrangement' });
export type PresetArrangement = z.infer<typeof PresetArrangement>;

/** Presets that are chosen with one press, in their order. */
export const NewBundle = z
  .strictObject({
    title: line(120, 1).meta({ title: 'Name' }),
    presetIds: z.array(Id, { error: 'a list of presets' }).min(1, { error: 'at least one preset' }).max(100).meta({ title: 'Presets' }),
  })
  .meta({ id: 'NewBundle' });
export type NewBundle = z.infer<typeof NewBundle>;
export const StoredBundle = NewBundle.extend({ id: Id }).meta({ id: 'StoredBundle' });
export type StoredBundle = z.infer<typeof StoredBundle>;

/** The presets of an export, by their ids with commas between them. */
export const ExportedPresets = z.object({
  ids: z.string().min(36).max(8000).meta({ description: 'Ids with commas between them' }),
});
