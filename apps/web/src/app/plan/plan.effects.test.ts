import '@angular/compiler';
import { ALL_PICTURES, type PlannedOutput, type PlanView, type RunDetail } from '@rundle/core';
import { NEVER, of, Subject, throwError } from 'rxjs';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import type { Api } from '../api/api';
import { presetsFeature } from '../presets/presets.store';
import { arrivingMaster, master, sampleSet } from '../set/sample-master';
import { setActions, setFeature } from '../set/set.store';
import { TestStore } from '../set/test-store';
import { callFailed } from '../shell/problems';
import { serverActions } from '../shell/server-news';
import { loadLastRun, plan, startRun, steerRun } from './plan.effects';
import { planActions, planFeature, selectBasis } from './plan.store';
import { planView, runDetail } from './sample-plan';

const api = {
  planSet: vi.fn<Api['planSet']>(),
  listRuns: vi.fn<Api['listRuns']>(),
  getRun: vi.fn<Api['getRun']>(),
  startRun: vi.fn<Api['startRun']>(),
  cancelRun: vi.fn<Api['cancelRun']>(),
  pauseRun: vi.fn<Api['pauseRun']>(),
  resumeRun: vi.fn<Api['resumeRun']>(),
};
const outputs: PlannedOutput[] = [
  { status: 'failed', masterId: 'm1', presetId: 'p1', part: '', error: { code: 'damaged', message: 'Cut off.' } },
];
const run = runDetail();
const view = planView(outputs);
const opened = (setId: string) => [setActions.pageOpened({ setId }), setActions.loaded({ set: sampleSet({ id: setId }) })];
const mastersCame = (state: 'arriving' | 'ready') =>
  setActions.eventCame({ event: { type: 'masters', masters: [{ ...(state === 'ready' ? master(1) : arrivingMaster(1)), position: 0 }] } });
const choose = (...presetIds: string[]) => setActions.changedByHand({ setId: 's', change: { presetIds } });
const asked = () => api.planSet.mock.calls;
let test: TestStore;
const apiOf = () => api as unknown as Api;

beforeEach(() => {
  vi.resetAllMocks();
  vi.useFakeTimers();
  test = new TestStore([setFeature, planFeature, presetsFeature]);
  test.dispatch(...opened('s'));
});
afterEach(() => void vi.useRealTimers());

describe('a plan', () => {
  beforeEach(() => void test.run(plan(test.actions, test.store, apiOf())));

  it('is made once for several changes, with the presets that are chosen by then', () => {
    api.planSet.mockReturnValue(of<PlanView>(view));
    test.dispatch(choose('p1'), choose('p1', 'p2'), mastersCame('ready'));
    vi.advanceTimersByTime(20);
    test.dispatch(choose('p2'));
    vi.advanceTimersByTime(1000);
    expect(asked()).toEqual([[{ setId: 's', body: { presetIds: ['p2'], earlier: 'go' } }]]);
    expect(Object.values(test.now(planFeature.selectPlanned))).toEqual(outputs);
    expect(test.now(planFeature.selectBusy)).toBe(false);
  });

  it('asks nobody when no preset is chosen, or a run is under way; at its end it is made anew, for what has changed since', () => {
    test.dispatch(mastersCame('ready'));
    vi.advanceTimersByTime(1000);
    expect(test.said).toEqual([planActions.nothingToPlan({ basis: test.now(selectBasis) })]);
    test.dispatch(choose('p1'), planActions.runStarted({ run }), mastersCame('ready'));
    vi.advanceTimersByTime(5000);
    expect(asked()).toEqual([]);
    api.planSet.mockReturnValue(of(view));
    test.dispatch(setActions.eventCame({ event: { type: 'run', run: { ...run, state: 'done' } } }));
    vi.advanceTimersByTime(300);
    test.dispatch(mastersCame('ready'));
    vi.advanceTimersByTime(300);
    expect(asked()).toEqual([
      [{ setId: 's', body: { presetIds: ['p1'], earlier: 'go' } }],
      [{ setId: 's', body: { presetIds: ['p1'], earlier: 'go', since: 'plan-1' } }],
    ]);
  });

  it('waits longer while pictures are being read, and no longer than needed once they have been', () => {
    api.planSet.mockReturnValue(NEVER);
    test.dispatch(choose('p1'));
    vi.advanceTimersByTime(1000);
    expect(asked()).toHaveLength(1);
    test.dispatch(mastersCame('arriving'));
    vi.advanceTimersByTime(2900);
    expect(asked()).toHaveLength(1);
    test.dispatch(mastersCame('ready'));
    vi.advanceTimersByTime(250);
    expect(asked()).toHaveLength(2);
  });

  it('follows pictures that are weighed one after the other every two seconds, the last of them, too', () => {
    api.planSet.mockReturnValue(of(view));
    test.dispatch(choose('p1'));
    vi.advanceTimersByTime(1000);
    for (let n = 0; n < 50; n++) {
      test.dispatch(setActions.eventCame({ event: { type: 'weighed' } }));
      vi.advanceTimersByTime(100);
    }
    expect(asked()).toHaveLength(3);
    vi.advanceTimersByTime(2500);
    expect(asked()).toHaveLength(4);
    vi.advanceTimersByTime(10_000);
    expect(asked()).toHaveLength(4);
  });

  it('that comes late is not taken for the one after it, nor for another set', () => {
    const [late, next] = [new Subject<PlanView>(), new Subject<PlanView>()];
    api.planSet.mockReturnValueOnce(late).mockReturnValueOnce(next);
    test.dispatch(choose('p1'));
    vi.advanceTimersByTime(300);
    test.dispatch(choose('p1', 'p2'));
    vi.advanceTimersByTime(300);
    late.next(view);
    expect(test.now(planFeature.selectPlanned)).toEqual({});
    test.dispatch(...opened('other'));
    next.next(view);
    expect(test.now(planFeature.selectPlanned)).toEqual({});
  });

  it('that the server refuses is said, and the next is made all the same', () => {
    api.planSet.mockReturnValueOnce(throwError(() => new Error('away'))).mockReturnValueOnce(of<PlanView>(view));
    test.dispatch(choose('p1'));
    vi.advanceTimersByTime(300);
    expect(test.now(planFeature.selectSentence)).not.toBeNull();
    expect(test.now(planFeature.selectBusy)).toBe(false);
    test.dispatch(mastersCame('ready'));
    vi.advanceTimersByTime(300);
    expect(test.now(planFeature.selectSentence)).toBeNull();
    expect(Object.values(test.now(planFeature.selectPlanned))).toEqual(outputs);
  });
});

it('a plan is not made for what it does not depend on: filters, and what other pages look at', () => {
  api.planSet.mockReturnValue(of<PlanView>(view));
  test.run(plan(test.actions, test.store, apiOf()));
  test.dispatch(choose('p1'));
  vi.advanceTimersByTime(300);
  const set = sampleSet({ presetIds: ['p1'], filter: { ...ALL_PICTURES, text: 'boat' }, outputs: 4 });
  test.dispatch(setActions.changedByHand({ setId: 's', change: { filter: set.filter } }));
  test.dispatch(setActions.eventCame({ event: { type: 'set', set } }), serverActions.listChanged({ topic: 'sets' }));
  vi.advanceTimersByTime(5000);
  expect(asked()).toHaveLength(1);
  test.dispatch(serverActions.listChanged({ topic: 'studio' }));
  vi.advanceTimersByTime(300);
  expect(asked()).toHaveLength(2);
  test.dispatch(setActions.eventCame({ event: { type: 'set', set: { ...set, title: 'Boats' } } }));
  vi.advanceTimersByTime(300);
  expect(asked()).toHaveLength(3);
});

describe('a run', () => {
  it('is begun once, however often Run is pressed, and can be pressed again when it was refused', () => {
    const answers = [new Subject<RunDetail>(), new Subject<RunDetail>()];
    answers.forEach((answer) => api.startRun.mockReturnValueOnce(answer));
    test.run(startRun(test.actions, test.store, apiOf()));
    test.dispatch(choose('p1'), planActions.runPressed({ only: {} }), planActions.runPressed({ only: {} }));
    // What was changed just before has to be kept first: a run by an earlier place or choice is nobody's wish.
    expect(api.startRun.mock.calls).toEqual([]);
    test.dispatch(setActions.editSent(), setActions.editSaved({ revisions: {} }));
    expect(api.startRun.mock.calls).toEqual([[{ setId: 's', body: { presetIds: ['p1'], earlier: 'go' } }]]);
    answers[0]!.error(new Error('away'));
    expect(test.said).toMatchObject([{ type: callFailed.type, what: 'The run did not start' }, planActions.runRefused()]);
    expect(test.now(planFeature.selectBusy)).toBe(false);
    test.dispatch(planActions.runPressed({ only: {} }));
    // By then another set is looked at: this run is not shown there.
    test.dispatch(...opened('other'));
    answers[1]!.next(run);
    expect(test.now(planFeature.selectRun)).toBeNull();
  });

  it('is cancelled, and what has become of it comes as an event', () => {
    test.run(steerRun(test.actions, apiOf()));
    test.dispatch(planActions.runStarted({ run }));
    api.cancelRun.mockReturnValueOnce(throwError(() => new Error('away'))).mockReturnValueOnce(of({ ...run, state: 'cancelled' as const }));
    test.dispatch(planActions.cancelPressed({ runId: 'run' }));
    expect(test.said).toMatchObject([{ type: callFailed.type, what: 'The run was not cancelled' }]);
    expect(test.now(planFeature.selectRun)?.state).toBe('running');
    test.dispatch(planActions.cancelPressed({ runId: 'run' }));
    expect(test.now(planFeature.selectRun)?.state).toBe('cancelled');
  });

  it('of earlier is shown again when its set is opened, and one that another page has begun', () => {
    const { outputs: none, ...bare } = run;
    expect(none).toEqual([]);
    const set = sampleSet({ presetIds: ['p1'] });
    api.listRuns.mockReturnValueOnce(of([])).mockReturnValueOnce(of([bare]));
    api.getRun.mockReturnValueOnce(of(run));
    test.run(loadLastRun(test.actions, test.store, apiOf()));
    test.dispatch(setActions.loaded({ set }));
    expect(test.said).toEqual([planActions.lastRunLoaded({ run: null })]);
    test.dispatch(setActions.eventCame({ event: { type: 'run', run: { ...bare, state: 'done' } } }));
    expect(api.listRuns).toHaveBeenCalledTimes(1);
    test.dispatch(setActions.eventCame({ event: { type: 'run', run: bare } }));
    expect(test.now(planFeature.selectRun)?.id).toBe('run');
  });
});
