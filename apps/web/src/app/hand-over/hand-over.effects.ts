import { inject } from '@angular/core';
import { Actions, createEffect, ofType } from '@ngrx/effects';
import { catchError, debounceTime, filter, map, merge, of, switchMap } from 'rxjs';
import { concatLatestFrom } from '@ngrx/operators';
import { Store } from '@ngrx/store';
import { Api } from '../api/api';
import { sentenceOf } from '../api/problem-of';
import { setActions } from '../set/set.store';
import { callFailed } from '../shell/problems';
import { handOverActions, handOverFeature } from './hand-over.store';

/** The list follows the set: at each (re)connection, when a run ends, when pictures go. */
export const loadOutputs = createEffect(
  (actions = inject(Actions), store = inject(Store), api = inject(Api)) =>
    merge(
      actions.pipe(ofType(setActions.loaded)),
      actions.pipe(
        ofType(setActions.eventCame),
        filter(({ event }) => (event.type === 'run' && event.run.state !== 'running') || event.type === 'masters-removed'),
      ),
    ).pipe(
      debounceTime(50),
      concatLatestFrom(() => store.select(handOverFeature.selectSetId)),
      switchMap(([, setId]) =>
        api.listOutputs({ setId: setId ?? '' }).pipe(
          map((view) => handOverActions.loaded({ setId: setId ?? '', view })),
          catchError((error: unknown) => of(callFailed({ what: 'The outputs could not be listed', sentence: sentenceOf(error) }))),
        ),
      ),
    ),
  { functional: true },
);
