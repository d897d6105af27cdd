import { inject } from '@angular/core';
import { Actions, createEffect, ofType } from '@ngrx/effects';
import type { Action } from '@ngrx/store';
import { NzNotificationService } from 'ng-zorro-antd/notification';
import {
  catchError,
  concat,
  EMPTY,
  filter,
  from,
  ignoreElements,
  map,
  mergeMap,
  type Observable,
  of,
  startWith,
  switchMap,
  take,
  tap,
  throttleTime,
} from 'rxjs';
import { Api } from '../api/api';
import { sentenceOf } from '../api/problem-of';
import { counted } from '../look/figures';
import { setActions } from '../set/set.store';
import { callFailed } from '../shell/problems';
import { arriveActions } from './arrive.store';
import { inTurn } from './in-turn';
import { sendFile, type UploadProgress } from './send-file';

/** Files sent at a time; of all pages together, see {@link inTurn}. */
const AT_A_TIME = 2;

/** What lies at the top is begun at once; sub-folders wait for an answer. */
export const beginDropped = createEffect(
  (actions = inject(Actions)) =>
    actions.pipe(
      ofType(arriveActions.dropped),
      map(({ setId, files }) => ({ setId, files: files.filter(({ depth }) => depth === 0).map(({ file }) => file) })),
      filter(({ files }) => files.length > 0),
      map((batch) => arriveActions.begun({ ...batch, at: Date.now() })),
    ),
  { functional: true },
);

export const answerDeeper = createEffect(
  (actions = inject(Actions)) =>
    actions.pipe(
      ofType(arriveActions.deeperAnswered),
      filter(({ bring, files }) => bring && files.length > 0),
      map(({ setId, files }) => arriveActions.begun({ setId, files, at: Date.now() })),
    ),
  { functional: true },
);

let count = 0;

/** Stop ends what is being sent and forgets what has not been begun. */
export const sendFiles = createEffect(
  (actions = inject(Actions)) =>
    actions.pipe(
      ofType(arriveActions.stopPressed),
      startWith(null),
      switchMap(() => actions.pipe(ofType(arriveActions.begun), mergeMap(filesOf), mergeMap(sending, AT_A_TIME))),
    ),
  { functional: true },
);

/** The files of one lot, with what puts them in order: seconds, and their place in the lot far behind the point. */
const filesOf = ({ setId, files, at }: ReturnType<typeof arriveActions.begun>) =>
  from(files.map((file, index) => ({ setId, file, arrival: at / 1000 + index / 1e6 })));

function sending({ setId, file, arrival }: { setId: string; file: File; arrival: number }): Observable<Action> {
  const id = `upload-${++count}`;
  const begun = arriveActions.uploadBegun({ upload: { id, fileName: file.name, bytes: file.size, sent: 0 } });
  const progress = inTurn(AT_A_TIME, sendFile(setId, file, arrival)).pipe(throttleTime(150, undefined, { leading: true, trailing: true }));
  return concat(of(begun), progress.pipe(map(actionOf(id, file))));
}

const actionOf =
  (id: string, { size: bytes }: File) =>
  (sent: UploadProgress) => {
    switch (sent.kind) {
      case 'progress':
        return arriveActions.uploadWentOn({ id, sent: sent.sent });
      case 'in':
        return arriveActions.uploadEnded({ id, bytes, twins: sent.result.twins, refused: [] });
      case 'refused':
        return arriveActions.uploadEnded({ id, bytes, twins: [], refused: [sent.problem] });
    }
  };

export const bringTwins = createEffect(
  (actions = inject(Actions), api = inject(Api)) =>
    actions.pipe(
      ofType(arriveActions.twinsAnswered),
      filter(({ bring }) => bring),
      mergeMap(({ setId, twins }) =>
        api.addTwins({ setId, body: { twins: twins.map(({ fileName, sha256 }) => ({ fileName, sha256 })) } }).pipe(
          ignoreElements(),
          catchError((error: unknown) => of(callFailed({ what: 'The pictures did not come in again', sentence: sentenceOf(error) }))),
        ),
      ),
    ),
  { functional: true },
);

export const bringFromMachine = createEffect(
  (actions = inject(Actions), api = inject(Api), notices = inject(NzNotificationService)) =>
    actions.pipe(
      ofType(arriveActions.machineFolderChosen),
      mergeMap(({ setId, path, deeper }) =>
        api.addFromMachine({ setId, body: { path, deeper } }).pipe(
          tap(({ added, known }) => {
            const said = known ? `; ${counted(known, 'picture')} of it were in the set already` : '';
            notices.info('From this machine', `${counted(added, 'picture')} came in${said}.`);
          }),
          map(({ refused }) => arriveActions.machineFolderIn({ refused })),
          catchError((error: unknown) => of(callFailed({ what: 'The folder did not come in', sentence: sentenceOf(error) }))),
        ),
      ),
    ),
  { functional: true },
);

/** Masters that stay on the machine may have changed since the set was open last. That is looked up once the page shows what is known of them. */
export const lookAgain = createEffect(
  (actions = inject(Actions), api = inject(Api)) =>
    actions.pipe(
      ofType(setActions.pageOpened),
      switchMap(({ setId }) =>
        actions.pipe(
          ofType(setActions.mastersLoaded),
          filter((loaded) => loaded.setId === setId),
          take(1),
          mergeMap(() => api.checkMachineFiles({ setId })),
          ignoreElements(),
          catchError(() => EMPTY), // a set that is not there says so by its own call
        ),
      ),
    ),
  { functional: true, dispatch: false },
);
