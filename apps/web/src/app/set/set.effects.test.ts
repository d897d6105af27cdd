import '@angular/compiler';
import { HttpErrorResponse } from '@angular/common/http';
import type { Action } from '@ngrx/store';
import { ALL_PICTURES, type MarksChanged, type MasterPage, type SetChange, type SetDetail, type SetEvent } from '@rundle/core';
import { NEVER, of, Subject, throwError } from 'rxjs';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import type { Api } from '../api/api';
import type { ServerEvents } from '../api/stream/server-events';
import { callFailed } from '../shell/problems';
import { markEdit } from './edits';
import { master, sampleSet } from './sample-master';
import { followSet, sendEdit } from './set.effects';
import { setActions, setFeature } from './set.store';
import { TestStore } from './test-store';

/** An answer that tells of nothing. */
const NONE: MarksChanged = { revisions: {} };
const masters = [master(1), master(2)];
const rated = (stars: number) => setActions.edited({ edit: markEdit(masters, new Set(['m1']), { kind: 'stars', stars })! });

const api = {
  changeMarks: vi.fn<Api['changeMarks']>(),
  changeSet: vi.fn<Api['changeSet']>(),
  getSet: vi.fn<Api['getSet']>(() => NEVER),
  listMasters: vi.fn<Api['listMasters']>(),
};
const events = { of: vi.fn<ServerEvents['of']>() };
let test: TestStore;
const dispatch = (action: Action) => test.dispatch(action);

beforeEach(() => {
  vi.resetAllMocks();
  test = new TestStore([setFeature]);
  test.dispatch(setActions.pageOpened({ setId: 's' }), setActions.mastersLoaded({ setId: 's', masters, from: 0, total: 2 }));
});

const send = () => test.run(sendEdit(test.store, api as unknown as Api));
const sent = () => api.changeMarks.mock.calls.map(([{ setId, body }]) => [setId, body.marks[0]?.stars]);

it('edits are sent one after the other, and what is undone as what was before', () => {
  const answers = [new Subject<MarksChanged>(), new Subject<MarksChanged>(), new Subject<MarksChanged>()];
  answers.forEach((answer) => api.changeMarks.mockReturnValueOnce(answer));
  send();
  dispatch(rated(3));
  dispatch(rated(5));
  dispatch(setActions.undoPressed());
  expect(api.changeMarks).toHaveBeenCalledTimes(1);
  answers.forEach((answer) => (answer.next(NONE), answer.complete()));
  expect(sent()).toEqual([3, 5, 0].map((stars) => ['s', stars]));
  const [begun, ended] = [setActions.editSent(), setActions.editSaved({ revisions: { masters: {} } })];
  expect(test.said).toEqual([begun, ended, begun, ended, begun, ended]);
});

it('nothing is sent when there is nothing to undo or to do again', () => {
  api.changeMarks.mockReturnValue(of(NONE));
  send();
  dispatch(setActions.undoPressed());
  dispatch(setActions.redoPressed());
  dispatch(rated(3));
  dispatch(setActions.redoPressed());
  dispatch(setActions.undoPressed());
  dispatch(setActions.undoPressed());
  expect(sent()).toEqual([3, 0].map((stars) => ['s', stars]));
});

it('what was done to a set is sent to it, also when its page has been left meanwhile', () => {
  const answer = new Subject<MarksChanged>();
  api.changeMarks.mockReturnValueOnce(answer).mockReturnValue(of(NONE));
  send();
  dispatch(rated(3));
  dispatch(rated(4));
  dispatch(setActions.pageOpened({ setId: 'other' }));
  dispatch(setActions.mastersLoaded({ setId: 'other', masters, from: 0, total: 2 }));
  dispatch(rated(1));
  answer.next(NONE);
  answer.complete();
  expect(sent()).toEqual([
    ['s', 3],
    ['s', 4],
    ['other', 1],
  ]);
});

it('an edit that the server refuses is told of and taken back, and the next is sent all the same', () => {
  const answer = new Subject<MarksChanged>();
  api.changeMarks.mockReturnValueOnce(answer).mockReturnValue(NEVER);
  send();
  dispatch(rated(4));
  dispatch(setActions.edited({ edit: markEdit(masters, new Set(['m2']), { kind: 'stars', stars: 2 })! }));
  answer.error(new Error('away'));
  expect(test.said.slice(1, 3)).toMatchObject([{ type: callFailed.type, what: 'Not kept: 4 stars' }, setActions.editRefused()]);
  expect(test.now(setFeature.selectMasters).map(({ stars }) => stars)).toEqual([0, 2]);
  expect(api.changeMarks).toHaveBeenCalledTimes(2);
});

describe('a set', () => {
  const stream = () => {
    const opened = new Subject<SetEvent | { type: 'connected' }>();
    events.of.mockReturnValue(opened);
    test.run(followSet(test.actions, api as unknown as Api, events as unknown as ServerEvents));
    dispatch(setActions.pageOpened({ setId: 's' }));
    return opened;
  };
  const ids = () => test.now(setFeature.selectMasters).map(({ id }) => id);
  beforeEach(() => {
    vi.useFakeTimers();
    api.getSet.mockReturnValue(of(sampleSet()));
  });
  afterEach(() => void vi.useRealTimers());

  it('is loaded part by part at every connection of its stream, and no more once its page is left', () => {
    api.listMasters.mockImplementation(({ query }) => of({ masters: query?.from === 0 ? [masters[0]!] : [masters[1]!], total: 2 }));
    const opened = stream();
    expect(api.getSet).not.toHaveBeenCalled();
    opened.next({ type: 'connected' });
    opened.next({ type: 'connected' });
    expect(api.getSet).toHaveBeenCalledTimes(2);
    expect(api.listMasters.mock.calls.map(([{ query }]) => query?.from)).toEqual([0, 1, 0, 1]);
    dispatch(setActions.pageLeft());
    expect(opened.observed).toBe(false);
  });

  it('that is loaded again is never shorter meanwhile, and has lost in the end what has gone', () => {
    const parts = [new Subject<MasterPage>(), new Subject<MasterPage>()];
    api.listMasters.mockReturnValueOnce(of({ masters, total: 2 }));
    parts.forEach((part) => api.listMasters.mockReturnValueOnce(part));
    const opened = stream();
    opened.next({ type: 'connected' });
    opened.next({ type: 'connected' });
    const give = (part: Subject<MasterPage>, page: MasterPage) => (part.next(page), part.complete());
    give(parts[0]!, { masters: [master(3)], total: 2 });
    expect(ids()).toEqual(['m1', 'm2', 'm3']);
    give(parts[1]!, { masters: [master(4)], total: 2 });
    expect(ids()).toEqual(['m3', 'm4']);
  });

  it('whose load fails is tried again with growing pauses and says so; its events go on', () => {
    const away = new HttpErrorResponse({ status: 0 });
    api.listMasters.mockReturnValue(of({ masters, total: 2 }));
    for (let times = 0; times < 3; times++) api.getSet.mockReturnValueOnce(throwError(() => away));
    const opened = stream();
    opened.next({ type: 'connected' });
    opened.next({ type: 'masters', masters: [master(2, { stars: 5 })] });
    const tries = [0, 1000, 2000, 5000].map((pause) => (vi.advanceTimersByTime(pause), api.getSet.mock.calls.length));
    expect(tries).toEqual([1, 2, 3, 4]);
    expect(test.said.filter(({ type }) => type === setActions.loadFailed.type)).toHaveLength(3);
    expect(test.now(setFeature.selectTrouble)).toBeNull();
    expect(test.now(setFeature.selectMasters).map(({ stars }) => stars)).toEqual([0, 5]);
    expect(opened.observed).toBe(true);
  });

  it('that is not there says so once, and is not tried again', () => {
    api.listMasters.mockReturnValue(NEVER);
    api.getSet.mockReturnValue(throwError(() => new HttpErrorResponse({ status: 404 })));
    stream().next({ type: 'connected' });
    vi.advanceTimersByTime(60_000);
    expect(api.getSet).toHaveBeenCalledTimes(1);
    expect(test.now(setFeature.selectSentence)).not.toBeNull();
  });
});

describe('a change of the set', () => {
  const change = (more: SetChange) => dispatch(setActions.changedByHand({ setId: 's', change: more }));
  const title = () => test.now(setFeature.selectSet)?.title;
  beforeEach(() => {
    vi.useFakeTimers();
    dispatch(setActions.loaded({ set: sampleSet() }));
  });
  afterEach(() => void vi.useRealTimers());

  it('is known here at once, waits for what was done before it, and is taken back when it is refused', () => {
    const [edit, answer] = [new Subject<MarksChanged>(), new Subject<SetDetail>()];
    api.changeMarks.mockReturnValueOnce(edit);
    api.changeSet.mockReturnValueOnce(answer);
    send();
    dispatch(rated(3));
    change({ title: 'Boats' });
    expect(title()).toBe('Boats');
    expect(api.changeSet).not.toHaveBeenCalled();
    edit.next(NONE);
    edit.complete();
    // What the server tells of the set meanwhile may be from before.
    dispatch(setActions.eventCame({ event: { type: 'set', set: sampleSet({ outputs: 7 }) } }));
    expect(title()).toBe('Boats');
    answer.error(new Error('away'));
    expect(test.said.at(-2)).toMatchObject({ type: callFailed.type, what: 'Not kept: the name of the set' });
    expect(title()).toBe('Lanterns');
    expect(test.now(setFeature.selectSet)?.outputs).toBe(7);
  });

  it('stays as it was answered when news of an earlier state comes after that', () => {
    api.changeSet.mockReturnValueOnce(of(sampleSet({ presetIds: [], revision: 4 })));
    api.changeMarks.mockReturnValueOnce(of({ revisions: { m1: 6 } }));
    send();
    change({ presetIds: ['p'] });
    dispatch(rated(3));
    const tell = (revision: number, stars: number) => {
      dispatch(setActions.eventCame({ event: { type: 'set', set: sampleSet({ presetIds: stars ? ['p'] : [], revision }) } }));
      dispatch(setActions.eventCame({ event: { type: 'masters', masters: [master(1, { stars, revision: revision + 2 })] } }));
      return [test.now(setFeature.selectPresetIds), test.now(setFeature.selectMasters)[0]?.stars];
    };
    expect(tell(3, 0)).toEqual([['p'], 3]);
    // What it has become, and what another page makes of it next.
    expect(tell(4, 3)).toEqual([['p'], 3]);
    expect(tell(5, 0)).toEqual([[], 0]);
  });

  it('that is typed letter by letter is sent once', () => {
    api.changeSet.mockReturnValue(of(sampleSet()));
    send();
    for (const text of ['l', 'la', 'lan']) {
      change({ filter: { ...ALL_PICTURES, text } });
      vi.advanceTimersByTime(200);
    }
    expect(api.changeSet).not.toHaveBeenCalled();
    vi.advanceTimersByTime(1000);
    expect(api.changeSet.mock.calls.map(([{ body }]) => body.filter?.text)).toEqual(['lan']);
  });
});
