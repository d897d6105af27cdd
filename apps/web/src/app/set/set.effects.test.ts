import '@angular/compiler';
import { Actions } from '@ngrx/effects';
import type { Action, Store } from '@ngrx/store';
import { NEVER, of, Subject, throwError } from 'rxjs';
import { beforeEach, expect, it, vi } from 'vitest';
import type { Api } from '../api/api';
import { callFailed } from '../shell/problems';
import { markEdit } from './edits';
import { master } from './sample-master';
import { followSet, sendEdit } from './set.effects';
import { setActions, setFeature } from './set.store';

const masters = [master(1), master(2)];
const rated = (stars: number) => setActions.edited({ edit: markEdit(masters, new Set(['m1']), { kind: 'stars', stars })! });

const api = {
  mark: vi.fn<Api['mark']>(),
  events: vi.fn<Api['events']>(),
  set: vi.fn<Api['set']>(() => NEVER),
  masters: vi.fn<Api['masters']>(),
};
let actions: Subject<Action>;
let dispatch: (action: Action) => void;
let store: Store;

beforeEach(() => {
  vi.clearAllMocks();
  let state = [setActions.pageOpened({ setId: 's' }), setActions.mastersLoaded({ setId: 's', masters, from: 0, total: 2 })].reduce(
    setFeature.reducer,
    undefined as unknown as ReturnType<typeof setFeature.reducer>,
  );
  actions = new Subject();
  // As the store does: reducers first, then effects.
  dispatch = (action) => {
    state = setFeature.reducer(state, action);
    actions.next(action);
  };
  store = { select: (selector: (root: object) => unknown) => of(selector({ set: state })) } as unknown as Store;
});

it('edits are sent one after the other, and what is undone as what was before', () => {
  const answers = [new Subject<void>(), new Subject<void>(), new Subject<void>()];
  answers.forEach((answer) => api.mark.mockReturnValueOnce(answer));
  const said: Action[] = [];
  sendEdit(new Actions(actions), store, api as unknown as Api).subscribe((action) => said.push(action));
  dispatch(rated(3));
  dispatch(rated(5));
  dispatch(setActions.undoPressed());
  expect(api.mark).toHaveBeenCalledTimes(1);
  answers[0]!.complete();
  answers[1]!.complete();
  expect(api.mark.mock.calls.map(([, [mark]]) => mark?.stars)).toEqual([3, 5, 0]);
  expect(said).toEqual([setActions.editKept(), setActions.editKept()]);
});

it('an edit that the server refuses is told of and taken back', () => {
  api.mark.mockReturnValueOnce(throwError(() => new Error('away')));
  const said: Action[] = [];
  sendEdit(new Actions(actions), store, api as unknown as Api).subscribe((action) => said.push(action));
  const edit = rated(4);
  dispatch(edit);
  expect(said).toMatchObject([{ type: callFailed.type, what: 'Not kept: 4 stars' }, setActions.editRefused(edit)]);
});

it('a set is loaded part by part at every connection of its stream, and no more once its page is left', () => {
  const stream = new Subject<never>();
  api.events.mockReturnValue(stream);
  api.set.mockReturnValue(of());
  api.masters.mockImplementation((_, from) => of({ masters: from === 0 ? [masters[0]!] : [masters[1]!], total: 2 }));
  const parts: number[] = [];
  followSet(new Actions(actions), api as unknown as Api).subscribe((action) => {
    if (action.type === setActions.mastersLoaded.type) parts.push((action as ReturnType<typeof setActions.mastersLoaded>).from);
  });
  dispatch(setActions.pageOpened({ setId: 's' }));
  stream.next({ type: 'connected' } as never);
  stream.next({ type: 'connected' } as never);
  expect(parts).toEqual([0, 1, 0, 1]);
  dispatch(setActions.pageLeft());
  expect(stream.observed).toBe(false);
});
