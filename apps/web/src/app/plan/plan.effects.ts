import { inject } from '@angular/core';
import { Actions, createEffect, ofType } from '@ngrx/effects';
import { concatLatestFrom } from '@ngrx/operators';
import { Store } from '@ngrx/store';
import type { Topic } from '@rundle/core';
import { catchError, EMPTY, exhaustMap, filter, map, merge, of, switchMap } from 'rxjs';
import { Api } from '../api/api';
import { sentenceOf } from '../api/problem-of';
import { forOpenSet, untilOtherSet } from '../set/open-set';
import { setActions, setFeature } from '../set/set.store';
import { settledSet } from '../set/settled';
import { callFailed } from '../shell/problems';
import { serverActions } from '../shell/server-news';
import { planActions, planFeature, sameIds, selectBasis, selectColumnIds } from './plan.store';

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
      forOpenSet(store, (setId) =>
        api.listRuns({ setId }).pipe(
          switchMap(([last]) => (last ? api.getRun({ runId: last.id }) : of(null))),
          concatLatestFrom(() => store.select(setFeature.selectPresetIds)),
          map(([run, chosen]) => {
            const isOfOthers = run && chosen.length > 0 && !sameIds(chosen, run.presetIds);
            return planActions.lastRunLoaded({ run: isOfOthers ? null : run });
          }),
          catchError((error: unknown) => of(callFailed({ what: 'The runs could not be loaded', sentence: sentenceOf(error) }))),
        ),
      ),
    ),
  { functional: true },
);

/** Lists that a plan depends on, beside the presets. */
const LISTS: readonly Topic[] = ['house-rules', 'watermarks', 'studio'];

/** Plans anew after every change that the plan depends on, unless a run is shown. */
export const plan = createEffect(
  (actions = inject(Actions), store = inject(Store), api = inject(Api)) =>
    merge(
      store.select(selectBasis).pipe(filter((basis) => basis !== null)),
      actions.pipe(ofType(planActions.planAgainPressed, planActions.lastRunLoaded)),
      actions.pipe(
        ofType(setActions.eventCame),
        filter(({ event: { type } }) => type === 'masters' || type === 'masters-removed' || type === 'order'),
      ),
      actions.pipe(
        ofType(serverActions.listChanged),
        filter(({ topic }) => LISTS.includes(topic)),
      ),
    ).pipe(
      settledSet(store.select(setFeature.selectArriving)),
      concatLatestFrom(() => [store.select(setFeature.selectPresetIds), store.select(planFeature.selectRun)]),
      map(([, presetIds, run]) => (run ? null : presetIds)),
      forOpenSet(store, (setId, presetIds) => {
        if (presetIds === null) return EMPTY;
        if (presetIds.length === 0) return of(planActions.planned({ view: { outputs: [], notices: [], credits: [] } }));
        return api.planSet({ setId, body: { presetIds } }).pipe(
          map((view) => planActions.planned({ view })),
          catchError((error: unknown) => of(planActions.notPlanned({ sentence: sentenceOf(error) }))),
        );
      }),
    ),
  { functional: true },
);

export const startRun = createEffect(
  (actions = inject(Actions), store = inject(Store), api = inject(Api)) =>
    actions.pipe(
      ofType(planActions.runPressed),
      concatLatestFrom(() => [store.select(setFeature.selectSetId), store.select(selectColumnIds)]),
      exhaustMap(([, setId, presetIds]) =>
        api.startRun({ setId: setId ?? '', body: { presetIds } }).pipe(
          map((run) => planActions.runStarted({ run })),
          catchError((error: unknown) =>
            of(callFailed({ what: 'The run did not start', sentence: sentenceOf(error) }), planActions.runRefused()),
          ),
          untilOtherSet(store, setId),
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
