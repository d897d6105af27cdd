import { HttpEventType } from '@angular/common/http';
import { inject } from '@angular/core';
import { Actions, createEffect, ofType } from '@ngrx/effects';
import type { Problem } from '@rundle/core';
import { catchError, concatMap, filter, from, ignoreElements, map, mergeMap, type Observable, of, switchMap, takeUntil } from 'rxjs';
import { Api } from '../api/api';
import { sentenceOf } from '../api/problem-of';
import { callFailed } from '../shell/problems';
import { setActions } from './set.store';

/** Files sent at a time. */
const AT_A_TIME = 3;

/** Loads the set at every (re)connection of its event stream, so that nothing is missed in between. */
export const followSet = createEffect(
  (actions = inject(Actions), api = inject(Api)) =>
    actions.pipe(
      ofType(setActions.pageOpened),
      switchMap(({ setId }) =>
        api.events(setId).pipe(
          concatMap((event) =>
            event.type === 'connected'
              ? api.set(setId).pipe(map((set) => setActions.loaded({ set })))
              : of(setActions.eventCame({ event })),
          ),
          catchError((error: unknown) => of(setActions.notLoaded({ sentence: sentenceOf(error) }))),
          takeUntil(actions.pipe(ofType(setActions.pageLeft))),
        ),
      ),
    ),
  { functional: true },
);

/** An event stream cannot say why it was refused; this call can. */
export const loadSet = createEffect(
  (actions = inject(Actions), api = inject(Api)) =>
    actions.pipe(
      ofType(setActions.pageOpened),
      switchMap(({ setId }) =>
        api.set(setId).pipe(
          map((set) => setActions.loaded({ set })),
          catchError((error: unknown) => of(setActions.notLoaded({ sentence: sentenceOf(error) }))),
        ),
      ),
    ),
  { functional: true },
);

export const renameSet = createEffect(
  (actions = inject(Actions), api = inject(Api)) =>
    actions.pipe(
      ofType(setActions.renamedByHand),
      concatMap(({ setId, title }) =>
        api.renameSet(setId, title).pipe(
          ignoreElements(),
          catchError((error: unknown) => of(callFailed({ what: 'The set was not renamed', sentence: sentenceOf(error) }))),
        ),
      ),
    ),
  { functional: true },
);

export const uploadFiles = createEffect(
  (actions = inject(Actions), api = inject(Api)) =>
    actions.pipe(
      ofType(setActions.filesDropped),
      mergeMap(({ setId, files }) => from(files.map((file) => ({ setId, file })))),
      mergeMap(({ setId, file }) => uploadOne(api, setId, file), AT_A_TIME),
    ),
  { functional: true },
);

let uploads = 0;

function uploadOne(api: Api, setId: string, file: File): Observable<ReturnType<(typeof setActions)[keyof typeof setActions]>> {
  const id = `upload-${++uploads}`;
  const begun = setActions.uploadBegun({ upload: { id, fileName: file.name, bytes: file.size, sent: 0 } });
  const going = api.upload(setId, file).pipe(
    map((event) => {
      if (event.type === HttpEventType.UploadProgress) return setActions.uploadWentOn({ id, sent: event.loaded });
      if (event.type === HttpEventType.Response && event.body) return setActions.uploadEnded({ id, ...event.body });
      return null;
    }),
    filter((action) => action !== null),
    catchError((error: unknown) => {
      const problem: Problem = { code: 'upload-failed', file: file.name, message: sentenceOf(error) };
      return of(setActions.uploadEnded({ id, masters: [], refused: [problem] }));
    }),
  );
  return from([of(begun), going]).pipe(concatMap((part) => part));
}

export const removeMasters = createEffect(
  (actions = inject(Actions), api = inject(Api)) =>
    actions.pipe(
      ofType(setActions.removalAskedFor),
      concatMap(({ setId, masterIds }) =>
        api.removeMasters(setId, masterIds).pipe(
          map(() => setActions.eventCame({ event: { type: 'masters-removed', masterIds } })),
          catchError((error: unknown) => of(callFailed({ what: 'The pictures were not taken out', sentence: sentenceOf(error) }))),
        ),
      ),
    ),
  { functional: true },
);
