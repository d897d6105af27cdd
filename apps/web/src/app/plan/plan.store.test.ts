import '@angular/compiler';
import type { Finding, PlannedOutput, PlanView, StoredPreset } from '@rundle/core';
import type { Action } from '@ngrx/store';
import { describe, expect, it } from 'vitest';
import { presetsFeature } from '../presets/presets.store';
import { runsFeature } from '../runs/runs.store';
import { setActions, setFeature } from '../set/set.store';
import { planActions, planFeature } from './plan.store';
import { planned, planView, runDetail, sampleMade, sampleOutput, sampleRun } from './sample-plan';

const cutOff = { code: 'damaged', message: 'Cut off.' } as const;
const run = runDetail([sampleOutput(1), sampleOutput(2), sampleOutput(3, { state: 'failed', error: cutOff })]);
type State = ReturnType<typeof planFeature.reducer>;
const after = (...actions: Action[]): State =>
  actions.reduce<State | undefined>((state, action) => planFeature.reducer(state, action), undefined)!;
const presets = { ...presetsFeature.reducer(undefined, { type: 'none' }), list: [{ id: 'p1', version: 1 } as StoredPreset] };
const others = { presets, set: setFeature.reducer(undefined, { type: 'none' }), runs: runsFeature.reducer(undefined, { type: 'none' }) };
const select = <T>(selector: (root: { plan: State } & typeof others) => T, state: State): T => selector({ plan: state, ...others });
const cell = (state: State, n: number) => select(planFeature.selectCells, state).get(`m${n} p1`);
const opened = setActions.pageOpened({ setId: 's' });
const planOf = (outputs: PlannedOutput[], more: Partial<PlanView> = {}) =>
  planActions.planned({ basis: null, view: planView(outputs, more) });
const look: Finding = { code: 'smaller-than-asked', severity: 'look', message: 'Smaller.' };
const made = { ...sampleMade, remarks: [look] };
const upToDate = (n: number): PlannedOutput => {
  const reason = { code: 'unchanged', severity: 'note', message: 'Nothing has changed.' } as const;
  return { status: 'skipped', masterId: `m${n}`, presetId: 'p1', part: '', target: 'T', folder: 'web', fileName: `${n}.jpg`, reason, made };
};
const runEvent = (more: Parameters<typeof sampleRun>[0]) => setActions.eventCame({ event: { type: 'run', run: sampleRun(more) } });

describe('the run sheet', () => {
  it('shows what is planned, with its totals: what is made, what gives way, what is up to date and why not', () => {
    const refused: PlannedOutput = { status: 'failed', masterId: 'm3', presetId: 'p1', part: '', error: cutOff };
    const old = planned(2, { replaces: true, made, stale: 'preset' });
    const state = after(opened, planOf([planned(1), old, refused, upToDate(4)]));
    expect(select(planFeature.selectTotals, state)).toEqual({
      files: 2,
      bytes: 2000,
      ms: 1000,
      replaces: 1,
      replacedAt: made.at,
      upToDate: 1,
      upToDateBytes: 700,
      failed: 1,
      stale: ['preset'],
    });
    expect(cell(state, 3)).toMatchObject({ state: 'failed', error: cutOff });
    expect(cell(state, 4)).toMatchObject({ state: 'made', bytes: 700, outputId: 'o1' });
    expect(select(planFeature.selectRemarks, state).map(({ title, kind, pictures }) => [title, kind, pictures])).toEqual([
      ['Cut off or broken inside', 'failure', 1],
      ['Smaller than the preset asks', 'look', 1],
    ]);
    expect(select(planFeature.selectProgress, state)).toBeNull();
  });

  it('changes just the cells that a later plan speaks of', () => {
    const before = after(opened, planOf([planned(1), planned(2), planned(3)]));
    const [first, third] = [cell(before, 1), cell(before, 3)];
    const changes = { since: 'plan-1', id: 'plan-2', gone: [{ masterId: 'm3', presetId: 'p1', part: '' }] };
    const changed = planFeature.reducer(before, planOf([planned(2, { expectedBytes: 5 })], changes));
    expect(cell(changed, 1)).toBe(first);
    expect(cell(changed, 2)).toMatchObject({ bytes: 5 });
    expect([third?.bytes, cell(changed, 3)]).toEqual([1000, undefined]);
    // The changes of a plan that is not here say nothing; the next is asked for whole.
    expect(planFeature.reducer(changed, planOf([], { since: 'plan-1', id: 'plan-3' }))).toMatchObject({
      planId: null,
      planned: changed.planned,
    });
  });

  it('follows a run event by event to its end, mixes in no other run, and then shows what the next plan finds', () => {
    const done = sampleOutput(1, { state: 'done', bytes: 700, quality: 80 });
    const other = sampleOutput(2, { runId: 'other', state: 'done', bytes: 9e9 });
    const going = after(
      opened,
      planOf([planned(1), planned(2), planned(3)]),
      planActions.runStarted({ run }),
      setActions.eventCame({ event: { type: 'outputs', outputs: [done, other] } }),
    );
    expect(select(planFeature.selectProgress, going)).toMatchObject({ isOpen: true, words: '2 of 3, 1 failed', counts: { bytes: 700 } });
    expect([cell(going, 1)?.state, cell(going, 2)?.state]).toEqual(['made', 'waiting']);
    const paused = planFeature.reducer(going, runEvent({ state: 'paused' }));
    expect(select(planFeature.selectProgress, paused)).toMatchObject({ isOpen: true, stage: 'paused' });
    const ended = planFeature.reducer(going, runEvent({ state: 'done' }));
    expect(select(planFeature.selectSide, ended)).toBe('just-ended');
    expect([cell(ended, 1)?.state, cell(ended, 3)?.state]).toEqual(['made', 'failed']);
    const fresh = planFeature.reducer(ended, planOf([upToDate(1), planned(2, { stale: 'credit' }), planned(3)]));
    // What failed stays so until it is tried again; everything else is as the disk and the plan have it.
    expect([1, 2, 3].map((n) => cell(fresh, n)?.state)).toEqual(['made', 'planned', 'failed']);
    expect(cell(fresh, 2)?.stale).toBe('credit');
  });

  it('says why a plan was refused, until the next one', () => {
    const refused = after(opened, planOf([planned(1)]), planActions.notPlanned({ basis: null, sentence: 'Still arriving.' }));
    expect(refused).toMatchObject({ planned: {}, planId: null, sentence: 'Still arriving.' });
    expect(planFeature.reducer(refused, planOf([])).sentence).toBeNull();
  });
});
