import * as z from 'zod';
import { PresetGuess } from '../../preset/from-file';
import { Preset } from '../../preset/schema';
import type { Endpoint } from '../endpoint';
import { Bundle } from '../../preset/bundle';
import { ExportedPresets, NewBundle, PresetArrangement, PresetVersion, StoredBundle, StoredPreset } from '../presets';

/** Calls about presets. */
export const PRESETS_ENDPOINTS = {
  listPresets: {
    method: 'get',
    path: '/api/presets',
    summary: 'All presets',
    answer: z.array(StoredPreset),
  },
  createPreset: {
    method: 'post',
    path: '/api/presets',
    summary: 'Makes a preset',
    body: Preset,
    answer: StoredPreset,
    status: 201,
  },
  // Before those with an id in their path.
  guessPreset: {
    method: 'post',
    path: '/api/presets/like-a-file',
    summary: 'By which preset files become like one: its bytes are the body (`application/octet-stream`), and nothing of it is kept',
    query: z.object({ name: z.string().min(1).max(255).meta({ description: 'What the file is called' }) }),
    answer: PresetGuess,
  },
  listDeletedPresets: {
    method: 'get',
    path: '/api/presets/bin',
    summary: 'Presets that have been deleted, the last one first',
    answer: z.array(StoredPreset),
  },
  addStarterPresets: {
    method: 'post',
    path: '/api/presets/starters',
    summary: 'Adds the starter presets whose names are not taken',
    answer: z.array(StoredPreset),
    status: 201,
  },
  exportPresets: {
    method: 'get',
    path: '/api/presets/export',
    summary: 'Some presets as a bundle, with the watermarks that they name',
    query: ExportedPresets,
    answer: Bundle,
    errors: ['not-found'],
  },
  importPresets: {
    method: 'post',
    path: '/api/presets/import',
    summary: 'Takes the presets of a bundle in as new ones; ids of watermarks that are taken get new ones, and the presets follow',
    body: Bundle,
    answer: z.array(StoredPreset),
    status: 201,
  },
  getPreset: {
    method: 'get',
    path: '/api/presets/{presetId}',
    summary: 'A preset',
    answer: StoredPreset,
    errors: ['not-found'],
  },
  changePreset: {
    method: 'put',
    path: '/api/presets/{presetId}',
    summary: 'Changes a preset: makes its next version; outputs keep the version that made them',
    body: Preset,
    ifMatch: true,
    answer: StoredPreset,
    errors: ['not-found', 'changed-meanwhile'],
  },
  deletePreset: {
    method: 'delete',
    path: '/api/presets/{presetId}',
    summary: 'Puts a preset into the bin; what it made stays',
    errors: ['not-found'],
  },
  restorePreset: {
    method: 'post',
    path: '/api/presets/{presetId}/restore',
    summary: 'Puts a preset back from the bin',
    answer: StoredPreset,
    errors: ['not-found'],
  },
  arrangePreset: {
    method: 'patch',
    path: '/api/presets/{presetId}',
    summary: 'Gives a preset its place in the library: group, favourite, order; makes no version',
    body: PresetArrangement,
    answer: StoredPreset,
    errors: ['not-found'],
  },
  listPresetVersions: {
    method: 'get',
    path: '/api/presets/{presetId}/versions',
    summary: 'All versions of a preset, the newest first',
    answer: z.array(PresetVersion),
    errors: ['not-found'],
  },

  // Bundles
  listBundles: {
    method: 'get',
    path: '/api/bundles',
    summary: 'Presets that are chosen together',
    answer: z.array(StoredBundle),
  },
  createBundle: {
    method: 'post',
    path: '/api/bundles',
    summary: 'Puts presets together under a name',
    body: NewBundle,
    answer: StoredBundle,
    status: 201,
  },
  changeBundle: {
    method: 'put',
    path: '/api/bundles/{bundleId}',
    summary: 'Changes a bundle',
    body: NewBundle,
    answer: StoredBundle,
    errors: ['not-found'],
  },
  deleteBundle: {
    method: 'delete',
    path: '/api/bundles/{bundleId}',
    summary: 'Takes a bundle apart; its presets stay',
    errors: ['not-found'],
  },
} as const satisfies Record<string, Endpoint>;
