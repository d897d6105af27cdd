import '@angular/compiler';
import type { Action } from '@ngrx/store';
import { NEVER, of, Subject } from 'rxjs';
import { beforeEach, expect, it, vi } from 'vitest';
import type { Api } from '../api/api';
import { callFailed } from '../shell/problems';
import { markEdit } from './edits';
import { master } from './sample-master';
import { followSet, sendEdit } from './set.effects';
import { setActions, setFeature } from './set.store';
import { TestStore } from './test-store';

const masters = [master(1), master(2)];
const rated = (stars: number) => setActions.edited({ edit: markEdit(masters, new Set(['m1']), { kind: 'stars', stars })! });

const api = {
  changeMarks: vi.fn<Api['changeMarks']>(),
  events: vi.fn<Api['events']>(),
  getSet: vi.fn<Api['getSet']>(() => NEVER),
  listMasters: vi.fn<Api['listMasters']>(),
};
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
  const answers = [new Subject<void>(), new Subject<void>(), new Subject<void>()];
  answers.forEach((answer) => api.changeMarks.mockReturnValueOnce(answer));
  send();
  dispatch(rated(3));
  dispatch(rated(5));
  dispatch(setActions.undoPressed());
  expect(api.changeMarks).toHaveBeenCalledTimes(1);
  answers.forEach((answer) => answer.complete());
  expect(sent()).toEqual([3, 5, 0].map((stars) => ['s', stars]));
  expect(test.said).toEqual([setActions.editSaved(), setActions.editSaved(), setActions.editSaved()]);
});

it('nothing is sent when there is nothing to undo or to do again', () => {
  api.changeMarks.mockReturnValue(of());
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
  const answer = new Subject<void>();
  api.changeMarks.mockReturnValueOnce(answer).mockReturnValue(of());
  send();
  dispatch(rated(3));
  dispatch(rated(4));
  dispatch(setActions.pageOpened({ setId: 'other' }));
  dispatch(setActions.mastersLoaded({ setId: 'other', masters, from: 0, total: 2 }));
  dispatch(rated(1));
  answer.complete();
  expect(sent()).toEqual([
    ['s', 3],
    ['s', 4],
    ['other', 1],
  ]);
});

it('an edit that the server refuses is told of and taken back, and the next is sent all the same', () => {
  const answer = new Subject<void>();
  api.changeMarks.mockReturnValueOnce(answer).mockReturnValue(NEVER);
  send();
  dispatch(rated(4));
  dispatch(setActions.edited({ edit: markEdit(masters, new Set(['m2']), { kind: 'stars', stars: 2 })! }));
  answer.error(new Error('away'));
  expect(test.said).toMatchObject([{ type: callFailed.type, what: 'Not kept: 4 stars' }, setActions.editRefused()]);
  expect(test.now(setFeature.selectMasters).map(({ stars }) => stars)).toEqual([0, 2]);
  expect(api.changeMarks).toHaveBeenCalledTimes(2);
});

it('a set is loaded part by part at every connection of its stream, and no more once its page is left', () => {
  const stream = new Subject<never>();
  api.events.mockReturnValue(stream);
  api.getSet.mockReturnValue(of());
  api.listMasters.mockImplementation(({ query }) => of({ masters: query?.from === 0 ? [masters[0]!] : [masters[1]!], total: 2 }));
  const parts: number[] = [];
  followSet(test.actions, api as unknown as Api).subscribe((action) => {
    if (action.type === setActions.mastersLoaded.type) parts.push((action as ReturnType<typeof setActions.mastersLoaded>).from);
  });
  dispatch(setActions.pageOpened({ setId: 's' }));
  stream.next({ type: 'connected' } as never);
  stream.next({ type: 'connected' } as never);
  expect(parts).toEqual([0, 1, 0, 1]);
  dispatch(setActions.pageLeft());
  expect(stream.observed).toBe(false);
});
