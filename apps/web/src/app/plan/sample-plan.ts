import {
  type MadeFile,
  NONE_EARLIER,
  type Output,
  type PlannedOutput,
  type PlanView,
  type Run,
  runCounts,
  type RunDetail,
} from '@rundle/core';

/*
 * Plans and runs for tests.
 */

export const planned = (n: number, more: Partial<Extract<PlannedOutput, { status: 'planned' }>> = {}): PlannedOutput => ({
  status: 'planned',
  masterId: `m${n}`,
  presetId: 'p1',
  part: '',
  target: 'Lanterns',
  folder: 'web',
  fileName: `${n}.jpg`,
  width: 900,
  height: 600,
  expectedBytes: 1000,
  guessedBytes: 1000,
  expectedMs: 500,
  replaces: false,
  made: null,
  stale: null,
  warnings: [],
  ...more,
});

export const sampleMade: MadeFile = {
  outputId: 'o1',
  width: 900,
  height: 600,
  bytes: 700,
  quality: 80,
  presetVersion: 1,
  at: '2026-06-20T12:00:00Z',
  remarks: [],
};

export const sampleOutput = (n: number, more: Partial<Output> = {}): Output =>
  ({
    id: `o${n}`,
    runId: 'run',
    masterId: `m${n}`,
    presetId: 'p1',
    part: '',
    presetVersion: 1,
    state: 'planned',
    target: 'Lanterns',
    folder: 'web',
    fileName: `${n}.jpg`,
    width: 900,
    height: 600,
    expectedBytes: 1000,
    bytes: null,
    quality: null,
    measures: null,
    warnings: [],
    ms: null,
    error: null,
    ...more,
  }) as Output;

export const sampleRun = (more: Partial<Run> = {}): Run => ({
  id: 'run',
  setId: 's',
  setTitle: 'Lanterns',
  state: 'running',
  startedAt: '2026-06-20T21:40:00Z',
  finishedAt: null,
  presetIds: ['p1'],
  line: 1,
  place: { kind: 'own' },
  once: {},
  counts: { ...runCounts([]), total: 3 },
  stopping: false,
  ...more,
});

export const runDetail = (outputs: Output[] = [], more: Partial<Run> = {}): RunDetail => ({ ...sampleRun(more), outputs });

export const planView = (outputs: PlannedOutput[] = [], more: Partial<PlanView> = {}): PlanView => ({
  id: 'plan-1',
  since: null,
  outputs,
  gone: [],
  earlier: NONE_EARLIER,
  notices: [],
  credits: [],
  timeMs: 4000,
  rough: 0,
  unseen: 0,
  freeBytes: null,
  path: '/data/outputs/Lanterns',
  placeProblem: null,
  ...more,
});
