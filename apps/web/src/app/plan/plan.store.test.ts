import '@angular/compiler';
import type { Output, PlannedOutput, RunDetail } from '@rundle/core';
import type { Action } from '@ngrx/store';
import { describe, expect, it } from 'vitest';
import { sampleSet } from '../set/sample-master';
import { setActions } from '../set/set.store';
import { cellKey, planActions, planFeature } from './plan.store';

const id = (n: number) => `00000000-0000-4000-8000-00000000000${n}`;
const output = (n: number, more: Partial<Output> = {}) =>
  ({
    id: id(n),
    runId: 'run',
    masterId: `m${n}`,
    presetId: 'p1',
    presetVersion: 1,
    state: 'planned',
    folder: 'web',
    fileName: `${n}.jpg`,
    width: 900,
    height: 600,
    expectedBytes: 1000,
    bytes: null,
    quality: null,
    measures: null,
    warnings: [],
    error: null,
    ...more,
  }) as Output;
const planned = (n: number): PlannedOutput => ({
  status: 'planned',
  masterId: `m${n}`,
  presetId: 'p1',
  folder: 'web',
  fileName: `${n}.jpg`,
  width: 900,
  height: 600,
  expectedBytes: 1000,
  replaces: false,
  warnings: [],
});
const run: RunDetail = {
  id: 'run',
  setId: 'set',
  state: 'running',
  startedAt: '2026-06-20T21:40:00Z',
  finishedAt: null,
  presetIds: ['p1'],
  stopping: false,
  outputs: [output(1), output(2), output(3, { state: 'failed', error: { code: 'damaged', message: 'Cut off.' } })],
};
type State = ReturnType<typeof planFeature.reducer>;
const after = (...actions: Action[]): State =>
  actions.reduce<State | undefined>((state, action) => planFeature.reducer(state, action), undefined)!;
const select = <T>(selector: (root: { plan: State }) => T, state: State): T => selector({ plan: state });
const opened = setActions.pageOpened({ setId: 'set' });
const chosen = (...presetIds: string[]) => setActions.changedByHand({ setId: 'set', change: { presetIds } });
const planOf = (outputs: PlannedOutput[]) => planActions.planned({ view: { outputs, notices: [], credits: [] } });

describe('the run sheet', () => {
  it('shows what is planned, with its totals', () => {
    const refused: PlannedOutput = { status: 'failed', masterId: 'm3', presetId: 'p1', error: { code: 'damaged', message: 'Cut off.' } };
    const state = after(opened, planOf([planned(1), planned(2), refused]));
    expect(select(planFeature.selectTotals, state)).toEqual({ files: 2, bytes: 2000 });
    expect(select(planFeature.selectCells, state)[cellKey('m3', 'p1')]).toMatchObject({ kind: 'planned', status: 'failed' });
    expect(select(planFeature.selectProgress, state)).toBeNull();
  });

  it('follows a run event by event to its end, and mixes in no other run', () => {
    const changed = [output(1, { state: 'done', bytes: 700, quality: 80 }), output(2, { runId: 'other', state: 'done', bytes: 9e9 })];
    const going = after(opened, planActions.runStarted({ run }), setActions.eventCame({ event: { type: 'outputs', outputs: changed } }));
    expect(select(planFeature.selectProgress, going)).toMatchObject({ running: true, total: 3, ended: 2, done: 1, failed: 1, bytes: 700 });
    expect(select(planFeature.selectTotals, going)).toEqual({ files: 2, bytes: 1700 });
    const ended = planFeature.reducer(going, setActions.eventCame({ event: { type: 'run', run: { ...run, state: 'done' } } }));
    expect(select(planFeature.selectProgress, ended)).toMatchObject({ running: false, cancelled: false });
  });

  it('comes back to the last run, but not over a plan that was asked for', () => {
    const back = after(opened, planActions.lastRunLoaded({ run }));
    expect(back).toMatchObject({ run: { id: 'run' } });
    const again = planFeature.reducer(back, planActions.planAgainPressed());
    expect(again).toMatchObject({ run: null, busy: true });
    expect(planFeature.reducer(again, planActions.lastRunLoaded({ run })).run).toBeNull();
  });

  it('shows a plan in place of a run that has ended when other presets are chosen, here or on another page', () => {
    const set = (...presetIds: string[]) => setActions.eventCame({ event: { type: 'set', set: sampleSet({ presetIds }) } });
    const going = after(opened, planActions.lastRunLoaded({ run }));
    const ended = after(opened, planActions.lastRunLoaded({ run: { ...run, state: 'done' } }));
    expect(planFeature.reducer(ended, chosen('p2')).run).toBeNull();
    expect(planFeature.reducer(ended, set('p1')).run).not.toBeNull();
    expect(planFeature.reducer(ended, set('p1', 'p2'))).toMatchObject({ run: null, busy: true });
    expect(planFeature.reducer(going, set('p1', 'p2')).run).not.toBeNull();
  });

  it('says why a plan was refused, until the next one', () => {
    const refused = after(opened, planOf([planned(1)]), planActions.notPlanned({ sentence: 'Still arriving.' }));
    expect(refused).toMatchObject({ planned: [], sentence: 'Still arriving.' });
    expect(planFeature.reducer(refused, planOf([])).sentence).toBeNull();
  });
});
