import { inject } from '@angular/core';
import { Actions, createEffect, ofType } from '@ngrx/effects';
import { concatLatestFrom } from '@ngrx/operators';
import { type Action, Store } from '@ngrx/store';
import { isOpenRun, type SetEvent, type Topic } from '@rundle/core';
import { auditTime, catchError, EMPTY, exhaustMap, filter, map, merge, mergeMap, type Observable, of, switchMap, take } from 'rxjs';
import { Api } from '../api/api';
import { sentenceOf } from '../api/problem-of';
import { forOpenSet, untilOtherSet } from '../set/open-set';
import { setActions, setFeature } from '../set/set.store';
import { settledSet } from '../set/settled';
import { callFailed } from '../shell/problems';
import { serverActions } from '../shell/server-news';
import { planActions, planFeature, selectBasis, selectColumnIds, selectEarlierFate } from './plan.store';

/** At each (re)connection of the set, and when a run we do not know yet is told of. */
export const loadLastRun = createEffect(
  (actions = inject(Actions), store = inject(Store), api = inject(Api)) =>
    merge(
      actions.pipe(ofType(setActions.loaded)),
      actions.pipe(
        ofType(setActions.eventCame),
        concatLatestFrom(() => store.select(planFeature.selectRun)),
        filter(([{ event }, known]) => event.type === 'run' && event.run.id !== known?.id && isOpenRun(event.run)),
      ),
    ).pipe(
      forOpenSet(store, (setId) =>
        api.listRuns({ setId }).pipe(
          switchMap(([last]) => (last ? api.getRun({ runId: last.id }) : of(null))),
          map((run) => planActions.lastRunLoaded({ run })),
          catchError((error: unknown) => of(callFailed({ what: 'The runs could not be loaded', sentence: sentenceOf(error) }))),
        ),
      ),
    ),
  { functional: true },
);

/** Lists that a plan depends on, beside the presets. */
const LISTS: readonly Topic[] = ['house-rules', 'watermarks', 'studio'];

/** How long a plan waits for the next change, in ms: short enough to seem to come at once. */
const QUIET = 30;

/** Plans anew after every change that the plan depends on, but not while a run is under way; what has changed by its end is planned then. */
export const plan = createEffect(
  (actions = inject(Actions), store = inject(Store), api = inject(Api)) =>
    merge(
      store.select(selectBasis).pipe(filter((basis) => basis !== null)),
      actions.pipe(ofType(planActions.lastRunLoaded, planActions.lookedAt)),
      store.select(planFeature.selectSide).pipe(filter((side) => side === 'just-ended')),
      actions.pipe(
        ofType(setActions.eventCame),
        filter(({ event: { type } }) => PLANNED_ANEW.includes(type)),
      ),
      actions.pipe(
        ofType(setActions.eventCame),
        filter(({ event: { type } }) => type === 'weighed'),
        auditTime(WEIGHED_MS),
      ),
      actions.pipe(
        ofType(serverActions.listChanged),
        filter(({ topic }) => LISTS.includes(topic)),
      ),
    ).pipe(
      settledSet(store.select(setFeature.selectArriving), of(QUIET)),
      concatLatestFrom(() => [
        store.select(setFeature.selectPresetIds),
        store.select(planFeature.selectRun),
        store.select(planFeature.selectPlanId),
        store.select(selectEarlierFate),
        store.select(selectBasis),
      ]),
      map(([, presetIds, run, since, earlier, basis]) => ({ presetIds, run, since, earlier, basis })),
      forOpenSet(store, (setId, { presetIds, run, since, earlier, basis }): Observable<Action> => {
        if (isOpenRun(run)) return EMPTY;
        if (presetIds.length === 0) return of(planActions.nothingToPlan({ basis }));
        return api.planSet({ setId, body: { presetIds, earlier, ...(since ? { since } : {}) } }).pipe(
          map((view) => planActions.planned({ view, basis })),
          catchError((error: unknown) => of(planActions.notPlanned({ sentence: sentenceOf(error), basis }))),
        );
      }),
    ),
  { functional: true },
);

/** Events of a set after which it is planned anew. */
const PLANNED_ANEW: readonly SetEvent['type'][] = ['masters', 'masters-removed', 'order'];
/**
 * How often at most it follows what is weighed meanwhile, in ms: that only makes figures finer, of thousands of pictures one after the other, and each
 * plan keeps the thread from what other pages wait for.
 */
const WEIGHED_MS = 2000;

export const startRun = createEffect(
  (actions = inject(Actions), store = inject(Store), api = inject(Api)) =>
    actions.pipe(
      ofType(planActions.runPressed),
      concatLatestFrom(() => [store.select(setFeature.selectSetId), store.select(selectColumnIds), store.select(selectEarlierFate)]),
      exhaustMap(([{ only, presetIds }, setId, chosen, earlier]) =>
        // What was changed just before, such as the place, counts: it may still be on its way.
        store.select(setFeature.selectNextPendingEdit).pipe(
          filter((edit) => edit === null),
          take(1),
          switchMap(() => api.startRun({ setId: setId ?? '', body: { presetIds: presetIds ?? chosen, earlier, ...only } })),
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

/** Cancels, pauses, or goes on with a run. */
export const steerRun = createEffect(
  (actions = inject(Actions), api = inject(Api)) =>
    merge(
      actions.pipe(
        ofType(planActions.cancelPressed),
        map(({ runId }) => ({ call: api.cancelRun({ runId }), what: 'The run was not cancelled' })),
      ),
      actions.pipe(
        ofType(planActions.pausePressed),
        map(({ runId }) => ({ call: api.pauseRun({ runId }), what: 'The run was not paused' })),
      ),
      actions.pipe(
        ofType(planActions.resumePressed),
        map(({ runId }) => ({ call: api.resumeRun({ runId }), what: 'The run does not go on' })),
      ),
    ).pipe(
      mergeMap(({ call, what }) =>
        call.pipe(
          mergeMap((run) => [setActions.eventCame({ event: { type: 'run', run } }), serverActions.runChanged({ run })]),
          catchError((error: unknown) => of(callFailed({ what, sentence: sentenceOf(error) }))),
        ),
      ),
    ),
  { functional: true },
);
