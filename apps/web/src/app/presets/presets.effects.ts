import { inject } from '@angular/core';
import { Router } from '@angular/router';
import { Actions, createEffect, ofType } from '@ngrx/effects';
import { catchError, concatMap, exhaustMap, filter, map, of, switchMap, tap } from 'rxjs';
import { Api } from '../api/api';
import { sentenceOf } from '../api/problem-of';
import { callFailed } from '../shell/problems';
import { serverActions } from '../shell/server-news';
import { Drafts } from './drafts';
import { presetsActions } from './presets.store';

const failed = (what: string) => (error: unknown) => of(callFailed({ what, sentence: sentenceOf(error) }));

/** When a page asks for them first, and after they have changed anywhere. */
export const loadPresets = createEffect(
  (actions = inject(Actions), api = inject(Api)) =>
    actions.pipe(
      ofType(presetsActions.wanted, serverActions.listChanged),
      filter((action) => !('topic' in action) || action.topic === 'presets'),
      switchMap(() =>
        api.listPresets().pipe(
          map((presets) => presetsActions.loaded({ presets })),
          catchError(failed('The presets could not be loaded')),
        ),
      ),
    ),
  { functional: true },
);

export const makePreset = createEffect(
  (actions = inject(Actions), api = inject(Api)) =>
    actions.pipe(
      ofType(presetsActions.newOneAskedFor),
      exhaustMap(({ preset, from }) =>
        api.createPreset({ body: preset }).pipe(
          map((made) => presetsActions.made({ preset: made, from })),
          catchError(failed('The preset was not made')),
        ),
      ),
    ),
  { functional: true },
);

export const openNewPreset = createEffect(
  (actions = inject(Actions), router = inject(Router), drafts = inject(Drafts)) =>
    actions.pipe(
      ofType(presetsActions.made),
      tap(({ preset, from }) => {
        // Left first, since the page keeps what it shows.
        void router.navigate(['/presets', preset.id]).then(() => from && drafts.discard(from));
      }),
    ),
  { functional: true, dispatch: false },
);

export const savePreset = createEffect(
  (actions = inject(Actions), api = inject(Api)) =>
    actions.pipe(
      ofType(presetsActions.savePressed),
      concatMap(({ id, preset, version }) =>
        api.changePreset({ presetId: id, body: preset, version }).pipe(
          map((saved) => presetsActions.saved({ preset: saved })),
          catchError(failed('The preset was not saved')),
        ),
      ),
    ),
  { functional: true },
);

export const deletePreset = createEffect(
  (actions = inject(Actions), api = inject(Api), router = inject(Router), drafts = inject(Drafts)) =>
    actions.pipe(
      ofType(presetsActions.deletionAskedFor),
      concatMap(({ id }) =>
        api.deletePreset({ presetId: id }).pipe(
          tap(() => void router.navigate(['/presets']).then(() => drafts.discard(id))),
          map(() => presetsActions.deleted({ id })),
          catchError(failed('The preset was not deleted')),
        ),
      ),
    ),
  { functional: true },
);
