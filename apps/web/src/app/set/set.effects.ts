import { inject } from '@angular/core';
import { Actions, createEffect, ofType } from '@ngrx/effects';
import { type Action, Store } from '@ngrx/store';
import {
  catchError,
  concat,
  concatMap,
  defer,
  EMPTY,
  expand,
  filter,
  finalize,
  ignoreElements,
  map,
  merge,
  type Observable,
  of,
  shareReplay,
  Subject,
  switchMap,
  takeUntil,
  tap,
  timer,
} from 'rxjs';
import type { MasterPage } from '@rundle/core';
import { Api } from '../api/api';
import { sentenceOf } from '../api/problem-of';
import { untilLoaded } from '../api/retry';
import { ServerEvents } from '../api/stream/server-events';
import { callFailed } from '../shell/problems';
import type { Edit, SetEdit } from './edits';
import { type Revisions, setActions, setFeature } from './set.store';

/**
 * Follows a set, and loads it at every (re)connection of the event stream, so that nothing is missed in between. A load that fails is tried
 * again; events that come meanwhile wait, and nothing ends the following but leaving the page.
 */
export const followSet = createEffect(
  (actions = inject(Actions), api = inject(Api), events = inject(ServerEvents)) =>
    actions.pipe(
      ofType(setActions.pageOpened),
      switchMap(({ setId }) =>
        events.of(setId).pipe(
          concatMap((event) => (event.type === 'connected' ? loadSet(api, setId) : of(setActions.eventCame({ event })))),
          takeUntil(actions.pipe(ofType(setActions.pageLeft))),
        ),
      ),
    ),
  { functional: true },
);

function loadSet(api: Api, setId: string): Observable<Action> {
  const failures = new Subject<Action>();
  const load = defer(() => {
    const first = api.listMasters({ setId, query: { from: 0, count: FIRST } }).pipe(shareReplay({ bufferSize: 1, refCount: true }));
    // Asked for at the same time as the set itself; an error of it is told in its turn.
    const ahead = first.pipe(
      ignoreElements(),
      catchError(() => EMPTY),
    );
    return concat(merge(api.getSet({ setId }).pipe(map((set) => setActions.loaded({ set }))), ahead), loadMasters(api, setId, first));
  }).pipe(
    untilLoaded((error) => failures.next(setActions.loadFailed({ setId, sentence: sentenceOf(error) }))),
    catchError((error: unknown) => of(setActions.notThere({ setId, sentence: sentenceOf(error) }))),
    finalize(() => failures.complete()),
  );
  return merge(failures, load);
}

/** The first part of the masters is what a screen can show of them. */
const FIRST = 120;

/**
 * Masters come in parts, so that the first screen need not wait for the last of 2,000. Where pictures have gone between two parts, others
 * have moved past their border: then the list is loaded once more.
 */
function loadMasters(api: Api, setId: string, first: Observable<MasterPage>): Observable<Action> {
  return defer(() => {
    const found = new Set<string>();
    const part = (from: number) => api.listMasters({ setId, query: { from } }).pipe(map((page) => ({ ...page, from })));
    return first.pipe(
      map((page) => ({ ...page, from: 0 })),
      tap(({ masters }) => masters.forEach(({ id }) => found.add(id))),
      expand(({ from, masters, total }) => {
        const next = from + masters.length;
        if (masters.length && next < total) return part(next).pipe(tap((page) => page.masters.forEach(({ id }) => found.add(id))));
        if (found.size >= total) return EMPTY;
        found.clear();
        return timer(AGAIN).pipe(
          switchMap(() => part(0)),
          tap((page) => page.masters.forEach(({ id }) => found.add(id))),
        );
      }),
      map((page) => setActions.mastersLoaded({ setId, ...page })),
    );
  });
}

/** Before a list that changed while it was loaded is loaded again, in ms. */
const AGAIN = 300;

/** How long a filter may still be typed before it is sent, in ms. */
const TYPING = 500;

/** Sends what was done, undone or done again, one after the other. */
export const sendEdit = createEffect(
  (store = inject(Store), api = inject(Api)) =>
    store.select(setFeature.selectNextPendingEdit).pipe(
      switchMap((next) => (next && isTyped(next.edit) ? timer(TYPING).pipe(map(() => next)) : of(next))),
      filter((next) => next !== null),
      concatMap(({ setId, edit }) =>
        concat(of(setActions.editSent()), send(api, setId, edit).pipe(map((revisions) => setActions.editSaved({ revisions })))).pipe(
          catchError((error: unknown) =>
            of(callFailed({ what: `Not kept: ${edit.label}`, sentence: sentenceOf(error) }), setActions.editRefused()),
          ),
        ),
      ),
    ),
  { functional: true },
);

const isTyped = (edit: Edit | SetEdit): boolean => edit.kind === 'set' && edit.after.filter !== undefined;

function send(api: Api, setId: string, edit: Edit | SetEdit): Observable<Revisions> {
  switch (edit.kind) {
    case 'set':
      return api.changeSet({ setId, body: edit.after }).pipe(map(({ revision }) => ({ set: revision })));
    case 'marks':
      return api.changeMarks({ setId, body: { marks: edit.after } }).pipe(map(({ revisions }) => ({ masters: revisions })));
    case 'order':
      return api.changeOrder({ setId, body: { masterIds: edit.after } }).pipe(map(() => ({})));
    case 'removal': {
      const ids = edit.gone.map(({ id }) => id);
      return (edit.back ? api.restoreMasters : api.removeMasters)({ setId, body: { masterIds: ids } }).pipe(map(() => ({})));
    }
  }
}
