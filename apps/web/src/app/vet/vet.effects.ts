import { inject } from '@angular/core';
import { Actions, createEffect, ofType } from '@ngrx/effects';
import { concatLatestFrom } from '@ngrx/operators';
import { Store } from '@ngrx/store';
import { catchError, concatMap, filter, ignoreElements, map, merge, of, switchMap } from 'rxjs';
import { Api } from '../api/api';
import { sentenceOf } from '../api/problem-of';
import { planActions, planFeature } from '../plan/plan.store';
import { presetsActions } from '../presets/presets.store';
import { setActions, setFeature } from '../set/set.store';
import { settledSet } from '../set/settled';
import { callFailed } from '../shell/problems';
import { vetActions, vetFeature } from './vet.store';

/** Vets anew after every change that findings depend on, once it has settled. */
export const vet = createEffect(
  (actions = inject(Actions), store = inject(Store), api = inject(Api)) =>
    merge(
      actions.pipe(ofType(vetActions.wanted, setActions.mastersLoaded, planActions.presetToggled, presetsActions.saved)),
      actions.pipe(
        ofType(setActions.eventCame),
        // Marks of this page come back as an event, when they are kept.
        filter(({ event: { type } }) => type === 'masters' || type === 'masters-removed' || type === 'set' || type === 'order'),
      ),
    ).pipe(
      settledSet(store.select(setFeature.selectArriving)),
      concatLatestFrom(() => [store.select(vetFeature.selectSetId), store.select(planFeature.selectChosen)]),
      switchMap(([, setId, presetIds]) =>
        setId
          ? api.vetSet({ setId, body: { presetIds } }).pipe(
              map(({ groups }) => vetActions.vetted({ setId, groups })),
              catchError((error: unknown) => of(callFailed({ what: 'The set could not be vetted', sentence: sentenceOf(error) }))),
            )
          : of(),
      ),
    ),
  { functional: true },
);

export const readAgain = createEffect(
  (actions = inject(Actions), store = inject(Store), api = inject(Api)) =>
    actions.pipe(
      ofType(vetActions.readAgainPressed),
      concatLatestFrom(() => store.select(vetFeature.selectSetId)),
      concatMap(([{ masterIds }, setId]) =>
        api.readMastersAgain({ setId: setId ?? '', body: { masterIds } }).pipe(
          ignoreElements(),
          catchError((error: unknown) => of(callFailed({ what: 'The pictures are not read again', sentence: sentenceOf(error) }))),
        ),
      ),
    ),
  { functional: true },
);

export const loadHouseRules = createEffect(
  (actions = inject(Actions), api = inject(Api)) =>
    actions.pipe(
      ofType(vetActions.houseRulesWanted),
      switchMap(() =>
        api.listHouseRules().pipe(
          map((list) => vetActions.houseRulesLoaded({ list })),
          catchError((error: unknown) => of(callFailed({ what: 'The house rules could not be loaded', sentence: sentenceOf(error) }))),
        ),
      ),
    ),
  { functional: true },
);
