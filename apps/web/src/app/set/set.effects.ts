import { inject } from '@angular/core';
import { Actions, createEffect, ofType } from '@ngrx/effects';
import { type Action, Store } from '@ngrx/store';
import { catchError, concat, concatMap, EMPTY, expand, filter, ignoreElements, map, type Observable, of, switchMap, takeUntil } from 'rxjs';
import { Api } from '../api/api';
import { sentenceOf } from '../api/problem-of';
import { callFailed } from '../shell/problems';
import type { Edit } from './edits';
import { setActions, setFeature } from './set.store';

/** Loads the set at every (re)connection of its event stream, so that nothing is missed in between. */
export const followSet = createEffect(
  (actions = inject(Actions), api = inject(Api)) =>
    actions.pipe(
      ofType(setActions.pageOpened),
      switchMap(({ setId }) =>
        api.events(setId).pipe(
          concatMap((event) => (event.type === 'connected' ? loadSet(api, setId) : of(setActions.eventCame({ event })))),
          catchError((error: unknown) => of(setActions.notLoaded({ sentence: sentenceOf(error) }))),
          takeUntil(actions.pipe(ofType(setActions.pageLeft))),
        ),
      ),
    ),
  { functional: true },
);

/** An event stream cannot say why it was refused; this call can. */
export const loadAtOnce = createEffect(
  (actions = inject(Actions), api = inject(Api)) =>
    actions.pipe(
      ofType(setActions.pageOpened),
      switchMap(({ setId }) =>
        loadSet(api, setId).pipe(catchError((error: unknown) => of(setActions.notLoaded({ sentence: sentenceOf(error) })))),
      ),
    ),
  { functional: true },
);

/** Masters come in parts, so that the first screen need not wait for the last of 2,000. */
function loadSet(api: Api, setId: string): Observable<Action> {
  const part = (from: number) => api.listMasters({ setId, query: { from } }).pipe(map((page) => ({ ...page, from })));
  const masters = part(0).pipe(
    expand(({ from, masters, total }) => (masters.length && from + masters.length < total ? part(from + masters.length) : EMPTY)),
    map((page) => setActions.mastersLoaded({ setId, ...page })),
  );
  return concat(api.getSet({ setId }).pipe(map((set) => setActions.loaded({ set }))), masters);
}

export const changeSet = createEffect(
  (actions = inject(Actions), api = inject(Api)) =>
    actions.pipe(
      ofType(setActions.changedByHand),
      concatMap(({ setId, change }) =>
        api.changeSet({ setId, body: change }).pipe(
          ignoreElements(),
          catchError((error: unknown) => of(callFailed({ what: 'The set was not changed', sentence: sentenceOf(error) }))),
        ),
      ),
    ),
  { functional: true },
);

/** Sends what was done, undone or done again, one after the other. */
export const sendEdit = createEffect(
  (store = inject(Store), api = inject(Api)) =>
    store.select(setFeature.selectNextPendingEdit).pipe(
      filter((next) => next !== null),
      concatMap(({ setId, edit }) =>
        concat(send(api, setId, edit).pipe(ignoreElements()), of(setActions.editSaved())).pipe(
          catchError((error: unknown) =>
            of(callFailed({ what: `Not kept: ${edit.label}`, sentence: sentenceOf(error) }), setActions.editRefused()),
          ),
        ),
      ),
    ),
  { functional: true },
);

function send(api: Api, setId: string, edit: Edit): Observable<void> {
  switch (edit.kind) {
    case 'marks':
      return api.changeMarks({ setId, body: { marks: edit.after } });
    case 'order':
      return api.changeOrder({ setId, body: { masterIds: edit.after } });
    case 'removal': {
      const ids = edit.gone.map(({ id }) => id);
      return edit.back ? api.restoreMasters({ setId, body: { masterIds: ids } }) : api.removeMasters({ setId, body: { masterIds: ids } });
    }
  }
}
