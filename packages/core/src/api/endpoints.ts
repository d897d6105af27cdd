import type { ProblemCode } from '../codes/problem-codes';
import type { Endpoint } from './endpoint';
import { HAND_OVER_ENDPOINTS } from './endpoints/hand-over';
import { MASTERS_ENDPOINTS } from './endpoints/masters';
import { PRESETS_ENDPOINTS } from './endpoints/presets';
import { RUNS_ENDPOINTS } from './endpoints/runs';
import { SERVER_ENDPOINTS } from './endpoints/server';
import { SETS_ENDPOINTS } from './endpoints/sets';
import { STANDING_ORDERS_ENDPOINTS } from './endpoints/standing-orders';
import { STORAGE_ENDPOINTS } from './endpoints/storage';
import { STUDIO_ENDPOINTS } from './endpoints/studio';

/** Every call of the HTTP interface. Uploads follow a standard of their own: see {@link UPLOADS_PATH}. */
export const ENDPOINTS = {
  ...SETS_ENDPOINTS,
  ...MASTERS_ENDPOINTS,
  ...RUNS_ENDPOINTS,
  ...HAND_OVER_ENDPOINTS,
  ...STANDING_ORDERS_ENDPOINTS,
  ...PRESETS_ENDPOINTS,
  ...STORAGE_ENDPOINTS,
  ...STUDIO_ENDPOINTS,
  ...SERVER_ENDPOINTS,
} as const satisfies Record<string, Endpoint>;

/** Errors that any call may return, beside its own. */
export const COMMON_ERRORS = [
  'invalid',
  'bad-request',
  'cross-site',
  'foreign-host',
  'too-slow',
  'database-away',
  'internal',
] as const satisfies readonly ProblemCode[];

export type Endpoints = typeof ENDPOINTS;
export type EndpointName = keyof Endpoints;
