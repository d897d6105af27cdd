import { inject } from '@angular/core';
import { Actions, createEffect, ofType } from '@ngrx/effects';
import { concatLatestFrom } from '@ngrx/operators';
import { Store } from '@ngrx/store';
import { catchError, EMPTY, exhaustMap, filter, map, merge, of, switchMap } from 'rxjs';
import { Api } from '../api/api';
import { sentenceOf } from '../api/problem-of';
import { presetsActions } from '../presets/presets.store';
import { setActions, setFeature } from '../set/set.store';
import { settledSet } from '../set/settled';
import { callFailed } from '../shell/problems';
import { planActions, planFeature } from './plan.store';

/** At each (re)connection of the set, and when a run we do not know yet is told of. */
export const loadLastRun = createEffect(
  (actions = inject(Actions), store = inject(Store), api = inject(Api)) =>
    merge(
      actions.pipe(ofType(setActions.loaded)),
      actions.pipe(
        ofType(setActions.eventCame),
        filter(({ event }) => event.type === 'run' && event.run.state === 'running'),
      ),
    ).pipe(
      concatLatestFrom(() => store.select(planFeature.selectSetId)),
      switchMap(([, setId]) =>
        api.listRuns({ setId: setId ?? '' }).pipe(
          switchMap(([last]) => (last ? api.getRun({ runId: last.id }) : of(null))),
          map((run) => planActions.lastRunLoaded({ setId: setId ?? '', run })),
          catchError((error: unknown) => of(callFailed({ what: 'The runs could not be loaded', sentence: sentenceOf(error) }))),
        ),
      ),
    ),
  { functional: true },
);

/** What is chosen belongs to the set: other pages and Vet go by it. */
export const keepChosen = createEffect(
  (actions = inject(Actions), store = inject(Store)) =>
    actions.pipe(
      ofType(planActions.presetToggled),
      concatLatestFrom(() => [store.select(planFeature.selectSetId), store.select(planFeature.selectChosen)]),
      filter(([, setId]) => setId !== null),
      map(([, setId, presetIds]) => setActions.changedByHand({ setId: setId ?? '', change: { presetIds } })),
    ),
  { functional: true },
);

/** Plans anew after every change that the plan depends on, unless a run is shown. */
export const plan = createEffect(
  (actions = inject(Actions), store = inject(Store), api = inject(Api)) =>
    merge(
      actions.pipe(ofType(planActions.presetToggled, planActions.planAgainPressed, planActions.lastRunLoaded, presetsActions.saved)),
      actions.pipe(
        ofType(setActions.eventCame),
        filter(({ event: { type } }) => type === 'masters' || type === 'masters-removed' || type === 'order' || type === 'set'),
      ),
    ).pipe(
      settledSet(store.select(setFeature.selectArriving)),
      concatLatestFrom(() => [
        store.select(planFeature.selectSetId),
        store.select(planFeature.selectChosen),
        store.select(planFeature.selectRun),
      ]),
      switchMap(([, setId, chosen, run]) => {
        if (!setId || run) return EMPTY;
        if (chosen.length === 0) return of(planActions.planned({ setId, outputs: [], notices: [], credits: [] }));
        return api.planSet({ setId, body: { presetIds: chosen } }).pipe(
          map((view) => planActions.planned({ setId, ...view })),
          catchError((error: unknown) => of(planActions.notPlanned({ setId, sentence: sentenceOf(error) }))),
        );
      }),
    ),
  { functional: true },
);

export const startRun = createEffect(
  (actions = inject(Actions), store = inject(Store), api = inject(Api)) =>
    actions.pipe(
      ofType(planActions.runPressed),
      concatLatestFrom(() => [store.select(planFeature.selectSetId), store.select(planFeature.selectChosen)]),
      exhaustMap(([, setId, chosen]) =>
        api.startRun({ setId: setId ?? '', body: { presetIds: chosen } }).pipe(
          map((run) => planActions.runStarted({ run })),
          catchError((error: unknown) =>
            of(callFailed({ what: 'The run did not start', sentence: sentenceOf(error) }), planActions.runRefused()),
          ),
        ),
      ),
    ),
  { functional: true },
);

export const cancelRun = createEffect(
  (actions = inject(Actions), api = inject(Api)) =>
    actions.pipe(
      ofType(planActions.cancelPressed),
      exhaustMap(({ runId }) =>
        api.cancelRun({ runId }).pipe(
          map((run) => setActions.eventCame({ event: { type: 'run', run } })),
          catchError((error: unknown) => of(callFailed({ what: 'The run was not cancelled', sentence: sentenceOf(error) }))),
        ),
      ),
    ),
  { functional: true },
);
