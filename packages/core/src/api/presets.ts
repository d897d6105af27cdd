import * as z from 'zod';
import { Preset } from '../preset/schema';
import { Id, Time } from './sets';

/** A stored preset with the version that its next outputs will name. */
export const StoredPreset = z.object({ id: Id, version: z.int(), preset: Preset, updatedAt: Time }).meta({ id: 'StoredPreset' });
export type StoredPreset = z.infer<typeof StoredPreset>;
