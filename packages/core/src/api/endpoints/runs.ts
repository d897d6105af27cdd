import * as z from 'zod';
import type { Endpoint } from '../endpoint';
import { HandOverView, PlanView, PresetChoice, Run, RunDetail } from '../runs';
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
    body: PresetChoice,
    answer: PlanView,
    errors: ['not-found', 'still-arriving'],
  },
  startRun: {
    method: 'post',
    path: '/api/sets/{setId}/runs',
    summary: 'Starts a run',
    body: PresetChoice,
    answer: RunDetail,
    status: 201,
    errors: ['not-found', 'still-arriving', 'run-under-way', 'nothing-to-do'],
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

  // Hand over
  listOutputs: {
    method: 'get',
    path: '/api/sets/{setId}/outputs',
    summary: 'What can be handed over',
    answer: HandOverView,
    errors: ['not-found'],
  },
  getZip: {
    method: 'get',
    path: '/api/sets/{setId}/outputs.zip',
    summary: 'All outputs, a folder per preset',
    media: 'application/zip',
    errors: ['not-found', 'nothing-there', 'output-missing'],
  },
  getOutputFile: {
    method: 'get',
    path: '/api/outputs/{outputId}/file',
    summary: 'One output',
    media: 'image/*',
    errors: ['not-found'],
  },
} as const satisfies Record<string, Endpoint>;
