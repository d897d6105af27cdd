import { BackupPlan, BackupsView } from '../../backup/schedule';
import * as z from 'zod';
import { StudioDetails } from '../../metadata/studio';
import { HouseRules } from '../../vet/house-rules';
import type { Endpoint } from '../endpoint';
import { StoredHouseRules } from '../vet';
import { NewWatermark, StoredWatermark } from '../watermarks';

/** Calls about what the studio has written down: house rules, details, watermarks. */
export const STUDIO_ENDPOINTS = {
  // House rules
  listHouseRules: {
    method: 'get',
    path: '/api/house-rules',
    summary: 'House rules of all receivers',
    answer: z.array(StoredHouseRules),
  },
  createHouseRules: {
    method: 'post',
    path: '/api/house-rules',
    summary: 'Writes house rules down',
    body: HouseRules,
    answer: StoredHouseRules,
    status: 201,
  },
  changeHouseRules: {
    method: 'put',
    path: '/api/house-rules/{houseRulesId}',
    summary: 'Changes house rules',
    body: HouseRules,
    answer: StoredHouseRules,
    errors: ['not-found'],
  },
  deleteHouseRules: {
    method: 'delete',
    path: '/api/house-rules/{houseRulesId}',
    summary: 'Deletes house rules; sets that had them have none',
    errors: ['not-found'],
  },

  // Backups
  getBackups: {
    method: 'get',
    path: '/api/backups',
    summary: 'When and where backups are made, and what came of the last ones',
    answer: BackupsView,
  },
  changeBackupPlan: {
    method: 'put',
    path: '/api/backups/plan',
    summary: 'When and where backups are made by themselves',
    body: BackupPlan,
    answer: BackupsView,
    errors: ['no-place'],
  },
  makeBackup: {
    method: 'post',
    path: '/api/backups',
    summary: 'Make a backup now, as planned',
    answer: BackupsView,
    errors: ['no-place'],
  },

  // Studio
  getStudio: {
    method: 'get',
    path: '/api/studio',
    summary: 'The studio’s details, which fill missing rights',
    answer: StudioDetails,
  },
  changeStudio: {
    method: 'put',
    path: '/api/studio',
    summary: 'Changes the studio’s details',
    body: StudioDetails,
    answer: StudioDetails,
  },
  listWatermarks: {
    method: 'get',
    path: '/api/watermarks',
    summary: 'The studio’s watermarks',
    answer: z.array(StoredWatermark),
  },
  createWatermark: {
    method: 'post',
    path: '/api/watermarks',
    summary: 'Adds a watermark; a worker checks it by drawing it once',
    body: NewWatermark,
    answer: StoredWatermark,
    status: 201,
  },
  // Before those with an id in their path.
  tryWatermark: {
    method: 'post',
    path: '/api/watermarks/preview',
    summary: 'A watermark that is not stored, on a bright, a dark and a busy picture',
    body: NewWatermark,
    media: 'image/png',
    errors: ['no-sample'],
  },
  showWatermark: {
    method: 'get',
    path: '/api/watermarks/{watermarkId}/preview',
    summary: 'A watermark on a bright, a dark and a busy picture',
    media: 'image/png',
    errors: ['not-found', 'no-sample'],
  },
  deleteWatermark: {
    method: 'delete',
    path: '/api/watermarks/{watermarkId}',
    summary: 'Deletes a watermark; what carries it stays',
    errors: ['not-found'],
  },
} as const satisfies Record<string, Endpoint>;
