import { inject } from '@angular/core';
import { Actions, createEffect, ofType } from '@ngrx/effects';
import { concatLatestFrom } from '@ngrx/operators';
import { Store } from '@ngrx/store';
import { catchError, concatMap, filter, ignoreElements, map, merge, of, switchMap } from 'rxjs';
import { Api } from '../api/api';
import { sentenceOf } from '../api/problem-of';
import { selectBasis } from '../plan/plan.store';
import { forOpenSet } from '../set/open-set';
import { setActions, setFeature } from '../set/set.store';
import { settledSet } from '../set/settled';
import { callFailed } from '../shell/problems';
import { serverActions } from '../shell/server-news';
import { vetActions, vetFeature } from './vet.store';

/** How long a vetting waits for the next change, in ms; a plan, which is made by the same thread, goes first. */
const QUIET = 500;
/** And the first of a set, which somebody may be looking for. */
const FIRST = 60;

/** Vets anew after every change that findings depend on, once it has settled. */
export const vet = createEffect(
  (actions = inject(Actions), store = inject(Store), api = inject(Api)) =>
    merge(
      store.select(selectBasis).pipe(filter((basis) => basis !== null)),
      actions.pipe(ofType(vetActions.wanted, setActions.mastersLoaded)),
      actions.pipe(
        ofType(setActions.eventCame),
        // Marks of this page come back as an event, when they are kept.
        filter(({ event: { type } }) => type === 'masters' || type === 'masters-removed' || type === 'order'),
      ),
      actions.pipe(
        ofType(serverActions.listChanged),
        filter(({ topic }) => topic !== 'sets' && topic !== 'presets'),
      ),
    ).pipe(
      settledSet(
        store.select(setFeature.selectArriving),
        store.select(vetFeature.selectVetted).pipe(map((isVetted) => (isVetted ? QUIET : FIRST))),
      ),
      concatLatestFrom(() => [store.select(setFeature.selectPresetIds), store.select(selectBasis)]),
      forOpenSet(store, (setId, [, presetIds, basis]) =>
        api.vetSet({ setId, body: { presetIds } }).pipe(
          map(({ groups }) => vetActions.vetted({ groups, basis })),
          catchError((error: unknown) => of(callFailed({ what: 'The set could not be vetted', sentence: sentenceOf(error) }))),
        ),
      ),
    ),
  { functional: true },
);

export const readAgain = createEffect(
  (actions = inject(Actions), store = inject(Store), api = inject(Api)) =>
    actions.pipe(
      ofType(vetActions.readAgainPressed),
      concatLatestFrom(() => store.select(setFeature.selectSetId)),
      concatMap(([{ masterIds }, setId]) =>
        api.readMastersAgain({ setId: setId ?? '', body: { masterIds } }).pipe(
          ignoreElements(),
          catchError((error: unknown) => of(callFailed({ what: 'The pictures are not read again', sentence: sentenceOf(error) }))),
        ),
      ),
    ),
  { functional: true },
);

/** When a page asks for them first, and after they have changed anywhere. */
export const loadHouseRules = createEffect(
  (actions = inject(Actions), api = inject(Api)) =>
    actions.pipe(
      ofType(vetActions.houseRulesWanted, serverActions.listChanged),
      filter((action) => !('topic' in action) || action.topic === 'house-rules'),
      switchMap(() =>
        api.listHouseRules().pipe(
          map((list) => vetActions.houseRulesLoaded({ list })),
          catchError((error: unknown) => of(callFailed({ what: 'The house rules could not be loaded', sentence: sentenceOf(error) }))),
        ),
      ),
    ),
  { functional: true },
);
