import * as z from 'zod';
import type { Endpoint } from '../endpoint';
import { PlanRequested, PlanView, PresetChoice, Run, RunDetail, RunRequest } from '../runs';
import { RunRecord } from '../../record/record';
import { Id } from '../sets';
import { VetView } from '../vet';

/** Calls that vet, plan, run and hand over. */
export const RUNS_ENDPOINTS = {
  // Vet, Plan, runs
  vetSet: {
    method: 'post',
    path: '/api/sets/{setId}/vet',
    summary: 'What would go wrong with these presets, worst first',
    body: PresetChoice.extend({ presetIds: z.array(Id).max(100) }),
    answer: VetView,
    errors: ['not-found'],
  },
  planSet: {
    method: 'post',
    path: '/api/sets/{setId}/plan',
    summary: 'What would come out; writes nothing',
    body: PlanRequested,
    answer: PlanView,
    errors: ['not-found', 'still-arriving'],
  },
  startRun: {
    method: 'post',
    path: '/api/sets/{setId}/runs',
    summary: 'Starts a run',
    body: RunRequest,
    answer: RunDetail,
    status: 201,
    errors: [
      'not-found',
      'still-arriving',
      'run-under-way',
      'nothing-to-do',
      'files-alike',
      'in-the-way',
      'no-room',
      'no-place',
      'place-asked',
    ],
  },
  listRuns: {
    method: 'get',
    path: '/api/sets/{setId}/runs',
    summary: 'The runs of a set, newest first',
    answer: z.array(Run),
  },
  getRun: {
    method: 'get',
    path: '/api/runs/{runId}',
    summary: 'A run with its outputs',
    answer: RunDetail,
    errors: ['not-found'],
  },
  cancelRun: {
    method: 'post',
    path: '/api/runs/{runId}/cancel',
    summary: 'Cancels what has not begun; what is done stays',
    answer: Run,
    errors: ['not-found'],
  },
  pauseRun: {
    method: 'post',
    path: '/api/runs/{runId}/pause',
    summary: 'Pauses it; what has been begun comes to its end',
    answer: Run,
    errors: ['not-found'],
  },
  resumeRun: {
    method: 'post',
    path: '/api/runs/{runId}/resume',
    summary: 'Goes on with a paused run',
    answer: Run,
    errors: ['not-found'],
  },
  listAllRuns: {
    method: 'get',
    path: '/api/runs',
    summary: 'The open runs of all sets in their order, then the last hundred that have ended',
    answer: z.array(Run),
  },
  moveRun: {
    method: 'post',
    path: '/api/runs/{runId}/move',
    summary: 'Changes the order of the open runs',
    body: z.strictObject({ before: Id.nullable().meta({ description: 'The run that it goes before; null: to the end' }) }),
    answer: z.array(Run),
    errors: ['not-found'],
  },
  getRunTable: {
    method: 'get',
    path: '/api/runs/{runId}/record.csv',
    summary: 'The record of a run as a table',
    media: 'text/csv',
    errors: ['not-found'],
  },
  getRunRecord: {
    method: 'get',
    path: '/api/runs/{runId}/record.json',
    summary: 'The record of a run: what was made of what, by which versions and values, and what came out',
    answer: RunRecord,
    errors: ['not-found'],
  },
} as const satisfies Record<string, Endpoint>;
