import { inject } from '@angular/core';
import { Actions, createEffect, ofType } from '@ngrx/effects';
import { Store } from '@ngrx/store';
import { catchError, concat, filter, from, ignoreElements, map, mergeMap, of, takeUntil, throttleTime } from 'rxjs';
import { Api } from '../api/api';
import { sentenceOf } from '../api/problem-of';
import { callFailed } from '../shell/problems';
import { arriveActions, arriveFeature } from './arrive.store';
import { sendFile, type Sent } from './send-file';

/** Files sent at a time. */
const AT_A_TIME = 4;

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
  (actions = inject(Actions), store = inject(Store)) => {
    let waiting: File[] = [];
    // The reducer empties the list with the answer, so that it is remembered here.
    store.select(arriveFeature.selectDeeper).subscribe((files) => (waiting = files.length ? files : waiting));
    return actions.pipe(
      ofType(arriveActions.deeperAnswered),
      filter(({ bring }) => bring && waiting.length > 0),
      map(({ setId }) => arriveActions.begun({ setId, files: waiting, at: Date.now() })),
    );
  },
  { functional: true },
);

let count = 0;

export const sendFiles = createEffect(
  (actions = inject(Actions)) =>
    actions.pipe(
      ofType(arriveActions.begun),
      mergeMap(({ setId, files }) => from(files.map((file) => ({ setId, file })))),
      mergeMap(({ setId, file }) => {
        const id = `upload-${++count}`;
        const begun = arriveActions.uploadBegun({ upload: { id, fileName: file.name, bytes: file.size, sent: 0 } });
        const going = sendFile(setId, file).pipe(throttleTime(150, undefined, { leading: true, trailing: true }), map(actionOf(id, file)));
        return concat(of(begun), going).pipe(takeUntil(actions.pipe(ofType(arriveActions.stopPressed))));
      }, AT_A_TIME),
    ),
  { functional: true },
);

const actionOf =
  (id: string, { size: bytes }: File) =>
  (sent: Sent) => {
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
        api.bringAgain(setId, twins).pipe(
          ignoreElements(),
          catchError((error: unknown) => of(callFailed({ what: 'The pictures did not come in again', sentence: sentenceOf(error) }))),
        ),
      ),
    ),
  { functional: true },
);
