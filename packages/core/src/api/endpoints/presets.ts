import * as z from 'zod';
import { Preset } from '../../preset/schema';
import type { Endpoint } from '../endpoint';
import { StoredPreset } from '../presets';

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
    summary: 'Deletes a preset; what it made stays',
    errors: ['not-found'],
  },
} as const satisfies Record<string, Endpoint>;
