import '@angular/compiler';
import type { StoredHouseRules, VetGroup, VetView } from '@rundle/core';
import { of, Subject, throwError } from 'rxjs';
import { afterEach, beforeEach, expect, it, vi } from 'vitest';
import type { Api } from '../api/api';
import { planFeature } from '../plan/plan.store';
import { presetsFeature } from '../presets/presets.store';
import { markEdit } from '../set/edits';
import { arrivingMaster, master, sampleSet } from '../set/sample-master';
import { setActions, setFeature } from '../set/set.store';
import { TestStore } from '../set/test-store';
import { callFailed } from '../shell/problems';
import { loadHouseRules, vet } from './vet.effects';
import { vetActions, vetFeature } from './vet.store';

const api = { vetSet: vi.fn<Api['vetSet']>(), listHouseRules: vi.fn<Api['listHouseRules']>() };
const groups: VetGroup[] = [
  {
    code: 'no-profile',
    title: 'No colour profile',
    severity: 'look',
    consequence: 'A guess.',
    remedy: null,
    pictures: [{ masterId: 'm1', message: 'No colour profile.' }],
  },
];
let test: TestStore;

beforeEach(() => {
  vi.resetAllMocks();
  vi.useFakeTimers();
  test = new TestStore([setFeature, planFeature, presetsFeature, vetFeature]);
  test.dispatch(setActions.pageOpened({ setId: 's' }), setActions.loaded({ set: sampleSet() }));
  test.run(vet(test.actions, test.store, api as unknown as Api));
  test.run(loadHouseRules(test.actions, api as unknown as Api));
});
afterEach(() => void vi.useRealTimers());

const come = (state: 'arriving' | 'ready', n: number) =>
  setActions.eventCame({ event: { type: 'masters', masters: [state === 'ready' ? master(n) : arrivingMaster(n)] } });

it('a set is vetted anew for what findings depend on, and not for what they do not', () => {
  api.vetSet.mockReturnValue(of<VetView>({ groups }));
  test.dispatch(setActions.changedByHand({ setId: 's', change: { presetIds: ['p1'] } }));
  vi.advanceTimersByTime(600);
  expect(api.vetSet.mock.calls).toEqual([[{ setId: 's', body: { presetIds: ['p1'] } }]]);
  expect(test.now(vetFeature.selectGroups)).toEqual(groups);
  // An edit alone: what it has changed comes back as an event, once it is kept.
  const edit = markEdit([master(1)], new Set(['m1']), { kind: 'stars', stars: 4 })!;
  test.dispatch(setActions.edited({ edit }), setActions.pictureClicked({ masterId: 'm1', click: 'only' }));
  test.dispatch(setActions.eventCame({ event: { type: 'outputs', outputs: [] } }));
  vi.advanceTimersByTime(5000);
  expect(api.vetSet).toHaveBeenCalledTimes(1);
  test.dispatch(come('ready', 1));
  vi.advanceTimersByTime(600);
  expect(api.vetSet).toHaveBeenCalledTimes(2);
});

it('while 100 pictures are read one after the other, it is vetted every 3 s, and once more after the last', () => {
  api.vetSet.mockReturnValue(of<VetView>({ groups }));
  test.dispatch(...Array.from({ length: 100 }, (_, n) => come('arriving', n)));
  for (let n = 0; n < 100; n++) {
    test.dispatch(come('ready', n));
    vi.advanceTimersByTime(100);
  }
  expect(api.vetSet).toHaveBeenCalledTimes(3);
  vi.advanceTimersByTime(1000);
  expect(api.vetSet).toHaveBeenCalledTimes(4);
});

it('what comes late belongs to the set it was asked for', () => {
  const late = new Subject<VetView>();
  api.vetSet.mockReturnValueOnce(late);
  test.dispatch(vetActions.wanted());
  vi.advanceTimersByTime(600);
  test.dispatch(setActions.pageOpened({ setId: 'other' }));
  late.next({ groups });
  expect(test.now(vetFeature.selectGroups)).toEqual([]);
  expect(test.now(vetFeature.selectVetted)).toBe(false);
});

it('what fails is told, and does not end the following', () => {
  const rules = [{ id: 'h1', rules: { title: 'Regatta Club' } }] as unknown as StoredHouseRules[];
  api.vetSet.mockReturnValueOnce(throwError(() => new Error('away'))).mockReturnValueOnce(of<VetView>({ groups }));
  api.listHouseRules.mockReturnValueOnce(throwError(() => new Error('away'))).mockReturnValueOnce(of(rules));
  test.dispatch(vetActions.wanted(), vetActions.houseRulesWanted());
  vi.advanceTimersByTime(600);
  const failed = (what: string) => ({ type: callFailed.type, what });
  expect(test.said).toMatchObject([failed('The house rules could not be loaded'), failed('The set could not be vetted')]);
  test.dispatch(vetActions.wanted(), vetActions.houseRulesWanted());
  vi.advanceTimersByTime(600);
  expect(test.now(vetFeature.selectGroups)).toEqual(groups);
  expect(test.now(vetFeature.selectHouseRules)).toEqual(rules);
});
