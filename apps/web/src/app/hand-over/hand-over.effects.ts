import { inject } from '@angular/core';
import { Actions, createEffect, ofType } from '@ngrx/effects';
import { catchError, debounceTime, filter, map, merge, of } from 'rxjs';
import { Store } from '@ngrx/store';
import { Api } from '../api/api';
import { sentenceOf } from '../api/problem-of';
import { forOpenSet } from '../set/open-set';
import { setActions } from '../set/set.store';
import { callFailed } from '../shell/problems';
import { handOverActions } from './hand-over.store';

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
      forOpenSet(store, (setId) =>
        api.listOutputs({ setId }).pipe(
          map((view) => handOverActions.loaded({ view })),
          catchError((error: unknown) => of(callFailed({ what: 'The outputs could not be listed', sentence: sentenceOf(error) }))),
        ),
      ),
    ),
  { functional: true },
);
