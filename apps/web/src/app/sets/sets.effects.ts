import { inject } from '@angular/core';
import { Router } from '@angular/router';
import { Actions, createEffect, ofType } from '@ngrx/effects';
import { catchError, concatMap, exhaustMap, filter, from, map, mergeMap, of, startWith, switchMap, takeUntil, throttleTime } from 'rxjs';
import { Api } from '../api/api';
import { sentenceOf } from '../api/problem-of';
import { arriveActions } from '../arrive/arrive.store';
import { callFailed } from '../shell/problems';
import { serverActions } from '../shell/server-news';
import { setsActions } from './sets.store';

/** Between two loads of the list at least, in ms: while pictures arrive, it changes all the time. */
const PAUSE = 2000;

/** The list is kept true as long as it is shown. */
export const loadSets = createEffect(
  (actions = inject(Actions), api = inject(Api)) =>
    actions.pipe(
      ofType(setsActions.pageOpened),
      switchMap(() =>
        actions.pipe(
          ofType(serverActions.listChanged, serverActions.runChanged),
          filter((action) => !('topic' in action) || action.topic === 'sets'),
          // A run and what it makes are told one after the other.
          throttleTime(PAUSE, undefined, { leading: true, trailing: true }),
          startWith(null),
          switchMap(() =>
            api.listSets().pipe(
              map((sets) => setsActions.listLoaded({ sets })),
              catchError((error: unknown) => of(callFailed({ what: 'The sets could not be loaded', sentence: sentenceOf(error) }))),
            ),
          ),
          takeUntil(actions.pipe(ofType(setsActions.pageLeft))),
        ),
      ),
    ),
  { functional: true },
);

export const makeSet = createEffect(
  (actions = inject(Actions), api = inject(Api)) =>
    actions.pipe(
      ofType(setsActions.newSetAskedFor),
      exhaustMap(({ title, files }) =>
        api.createSet({ body: { title } }).pipe(
          map((set) => setsActions.setMade({ set, files })),
          catchError((error: unknown) => of(callFailed({ what: 'The set was not made', sentence: sentenceOf(error) }))),
        ),
      ),
    ),
  { functional: true },
);

export const openNewSet = createEffect(
  (actions = inject(Actions), router = inject(Router)) =>
    actions.pipe(
      ofType(setsActions.setMade),
      // What was dropped comes in once the page that tells of it is open.
      concatMap(({ set, files }) => from(router.navigate(['/sets', set.id])).pipe(map(() => ({ setId: set.id, files })))),
      filter(({ files }) => files.length > 0),
      map((dropped) => arriveActions.dropped(dropped)),
    ),
  { functional: true },
);

export const putOnShelf = createEffect(
  (actions = inject(Actions), api = inject(Api)) =>
    actions.pipe(
      ofType(setsActions.shelfChosen),
      mergeMap(({ setId, shelf }) =>
        api.changeSet({ setId, body: { shelf } }).pipe(
          map((set) => setsActions.setChanged({ set })),
          catchError((error: unknown) => of(callFailed({ what: 'The set stayed where it was', sentence: sentenceOf(error) }))),
        ),
      ),
    ),
  { functional: true },
);

export const finishSet = createEffect(
  (actions = inject(Actions), api = inject(Api)) =>
    actions.pipe(
      ofType(setsActions.finishPressed),
      mergeMap(({ setId }) =>
        api.finishSet({ setId }).pipe(
          map((set) => setsActions.setChanged({ set })),
          catchError((error: unknown) => of(callFailed({ what: 'The set was not finished', sentence: sentenceOf(error) }))),
        ),
      ),
    ),
  { functional: true },
);

export const duplicateSet = createEffect(
  (actions = inject(Actions), api = inject(Api)) =>
    actions.pipe(
      ofType(setsActions.duplicateAskedFor),
      mergeMap(({ setId }) =>
        api.duplicateSet({ setId }).pipe(
          map((set) => setsActions.setDuplicated({ set })),
          catchError((error: unknown) => of(callFailed({ what: 'The set was not duplicated', sentence: sentenceOf(error) }))),
        ),
      ),
    ),
  { functional: true },
);
