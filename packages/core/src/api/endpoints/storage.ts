import * as z from 'zod';
import { BinRemoval, CacheBound, CacheRemoval, Clearing, Freed, OutputsRemoval, StorageView } from '../../storage/storage';
import type { Endpoint } from '../endpoint';
import { Id, SetDetail } from '../sets';

/** Calls that tell what uses space, and make room. */
export const STORAGE_ENDPOINTS = {
  getStorage: {
    method: 'get',
    path: '/api/storage',
    summary: 'What uses space, measured now',
    answer: StorageView,
  },
  removeOutputs: {
    method: 'post',
    path: '/api/storage/remove-outputs',
    summary: 'Removes outputs, which can be made again; what somebody has changed stays',
    body: OutputsRemoval,
    answer: Freed,
    errors: ['not-found', 'run-under-way'],
  },
  emptyCaches: {
    method: 'post',
    path: '/api/storage/empty-caches',
    summary: 'Empties caches; what is in use stays',
    body: CacheRemoval,
    answer: Freed,
  },
  boundCaches: {
    method: 'put',
    path: '/api/storage/bound',
    summary: 'What caches may take together; what is over it goes, the least used first',
    body: CacheBound,
    answer: CacheBound,
  },
  emptyBin: {
    method: 'post',
    path: '/api/storage/empty-bin',
    summary: 'Deletes for good what lay in the bin when it was measured',
    body: BinRemoval,
    answer: Freed,
    errors: ['backup-under-way'],
  },
  finishSet: {
    method: 'post',
    path: '/api/sets/{setId}/finish',
    summary: 'Puts a set into the archive and removes its outputs from Rundle’s own folder; it can be made again',
    answer: SetDetail,
    errors: ['not-found', 'run-under-way'],
  },
  getSetFile: {
    method: 'get',
    path: '/api/sets/{setId}/set.zip',
    summary: 'A whole set as one open file, to be taken in elsewhere: set.json, and the masters where they are to go along',
    query: z.object({ masters: z.enum(['with', 'without']).default('without') }),
    media: 'application/zip',
    errors: ['not-found'],
  },
  previewClearing: {
    method: 'post',
    path: '/api/sets/{setId}/clearing',
    summary: 'What clearing pictures away would do; clears nothing',
    body: z.strictObject({ masterIds: z.array(Id).min(1).max(5000) }),
    answer: Clearing,
    errors: ['not-found'],
  },
} as const satisfies Record<string, Endpoint>;
