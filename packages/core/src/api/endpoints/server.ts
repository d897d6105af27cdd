import * as z from 'zod';
import type { Endpoint } from '../endpoint';
import { FollowedSets } from '../events';
import { OfferedFileType } from '../file-types';
import { FeedsView } from '../../proof/feed';
import { Health } from '../health';
import { WorkerChange, WorkersView } from '../workers';

/** Calls about the server itself, and its events. */
export const SERVER_ENDPOINTS = {
  // Events
  events: {
    method: 'get',
    path: '/api/events',
    summary: 'What changes, as server-sent events, each a StreamEvent; the first one tells the id of the stream',
    media: 'text/event-stream',
  },
  followSets: {
    method: 'put',
    path: '/api/events/{streamId}',
    summary: 'Says which sets an event stream follows from now on',
    body: FollowedSets,
    errors: ['not-found'],
  },

  // The server itself
  listFileTypes: {
    method: 'get',
    path: '/api/file-types',
    summary: 'The file types that outputs can have, and whether all workers can write them',
    answer: z.array(OfferedFileType),
  },
  listFeeds: {
    method: 'get',
    path: '/api/feeds',
    summary: 'The made-up feeds of the stand-in that ships with Rundle',
    answer: FeedsView,
  },
  getWorkers: {
    method: 'get',
    path: '/api/workers',
    summary: 'The programs that read and make pictures, what each is at, and what waits',
    answer: WorkersView,
  },
  changeWorker: {
    method: 'patch',
    path: '/api/workers/{workerId}',
    summary: 'Drains a worker, which then takes nothing new, or wakes it',
    body: WorkerChange,
    errors: ['not-found'],
  },
  getHealth: {
    method: 'get',
    path: '/api/health',
    summary: 'Whether the database, the queue, the workers and the disk are well',
    answer: Health,
  },
} as const satisfies Record<string, Endpoint>;
