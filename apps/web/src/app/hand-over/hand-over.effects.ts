import { inject } from '@angular/core';
import { Actions, createEffect, ofType } from '@ngrx/effects';
import { type Action, Store } from '@ngrx/store';
import type { Topic } from '@rundle/core';
import {
  auditTime,
  catchError,
  debounceTime,
  EMPTY,
  expand,
  filter,
  forkJoin,
  map,
  merge,
  of,
  type OperatorFunction,
  pipe,
  switchMap,
  timer,
} from 'rxjs';
import { Api } from '../api/api';
import { sentenceOf } from '../api/problem-of';
import { forOpenSet } from '../set/open-set';
import { setActions } from '../set/set.store';
import { callFailed } from '../shell/problems';
import { serverActions } from '../shell/server-news';
import { handOverActions } from './hand-over.store';

const failed = <A extends Action>(what: string): OperatorFunction<A, A | ReturnType<typeof callFailed>> =>
  catchError((error: unknown) => of(callFailed({ what, sentence: sentenceOf(error) })));
const listChanged = (topic: Topic) =>
  pipe(
    ofType(serverActions.listChanged),
    filter((action) => action.topic === topic),
  );

/** The list follows the set: at each (re)connection, when a run ends, when pictures go; and the disk: whenever it is looked at. */
export const loadOutputs = createEffect(
  (actions = inject(Actions), store = inject(Store), api = inject(Api)) =>
    merge(
      actions.pipe(ofType(setActions.loaded, handOverActions.lookedAt)),
      actions.pipe(
        ofType(setActions.eventCame),
        filter(({ event }) => (event.type === 'run' && event.run.state !== 'running') || event.type === 'masters-removed'),
      ),
    ).pipe(
      debounceTime(50),
      forOpenSet(store, (setId) =>
        api.listOutputs({ setId }).pipe(
          map((view) => handOverActions.loaded({ view })),
          failed('The outputs could not be listed'),
        ),
      ),
    ),
  { functional: true },
);

/** While files are being sent their number changes again and again. */
const FOLLOW_MS = 250;

export const loadDeliveries = createEffect(
  (actions = inject(Actions), store = inject(Store), api = inject(Api)) =>
    merge(actions.pipe(ofType(setActions.loaded)), actions.pipe(listChanged('deliveries'), auditTime(FOLLOW_MS))).pipe(
      forOpenSet(store, (setId) =>
        api.listDeliveries({ setId }).pipe(
          map((deliveries) => handOverActions.deliveriesLoaded({ deliveries })),
          failed('The deliveries could not be listed'),
        ),
      ),
    ),
  { functional: true },
);

const receiversNow = (api: Api) => forkJoin({ receivers: api.listReceivers(), standIns: api.listStandIns() });

/** How often, and after how many ms, made-up receivers that do not answer are asked again. */
const STAND_IN_TRIES = 10;
const STAND_IN_PAUSE = 3000;

export const loadReceivers = createEffect(
  (actions = inject(Actions), api = inject(Api)) =>
    merge(actions.pipe(ofType(handOverActions.receiversWanted)), actions.pipe(listChanged('receivers'))).pipe(
      switchMap(() =>
        receiversNow(api).pipe(
          // Made-up receivers that do not answer yet are asked again: on a busy machine they take a while.
          expand(({ standIns }, tries) =>
            standIns.why === null || tries >= STAND_IN_TRIES ? EMPTY : timer(STAND_IN_PAUSE).pipe(switchMap(() => receiversNow(api))),
          ),
          map((loaded) => handOverActions.receiversLoaded(loaded)),
          failed('The receivers could not be listed'),
        ),
      ),
    ),
  { functional: true },
);
