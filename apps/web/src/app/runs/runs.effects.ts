import { inject } from '@angular/core';
import { Actions, createEffect, ofType } from '@ngrx/effects';
import { concatLatestFrom } from '@ngrx/operators';
import { Store } from '@ngrx/store';
import { isOpenRun, runStatus } from '@rundle/core';
import { catchError, filter, map, merge, of, switchMap, tap } from 'rxjs';
import { Api } from '../api/api';
import { sentenceOf } from '../api/problem-of';
import { ServerEvents } from '../api/stream/server-events';
import { callFailed } from '../shell/problems';
import { serverActions } from '../shell/server-news';
import { wantsNotices } from './notices';
import { runsActions, runsFeature } from './runs.store';

/** At the beginning, and after every gap in which something may have been missed. */
export const loadRuns = createEffect(
  (actions = inject(Actions), api = inject(Api), events = inject(ServerEvents)) =>
    merge(actions.pipe(ofType(runsActions.wanted)), events.back).pipe(
      switchMap(() =>
        api.listAllRuns().pipe(
          map((runs) => runsActions.loaded({ runs })),
          catchError((error: unknown) => of(callFailed({ what: 'The runs could not be loaded', sentence: sentenceOf(error) }))),
        ),
      ),
    ),
  { functional: true },
);

export const moveRun = createEffect(
  (actions = inject(Actions), api = inject(Api)) =>
    actions.pipe(
      ofType(runsActions.movePressed),
      switchMap(({ runId, before }) =>
        api.moveRun({ runId, body: { before } }).pipe(
          map(() => runsActions.wanted()),
          catchError((error: unknown) => of(callFailed({ what: 'The order was not changed', sentence: sentenceOf(error) }))),
        ),
      ),
    ),
  { functional: true },
);

/** Tells the end of a run by a notice of the browser, when the page is not looked at and whoever works here wants that. */
export const tellEnd = createEffect(
  (actions = inject(Actions), store = inject(Store)) =>
    actions.pipe(
      ofType(serverActions.runChanged),
      concatLatestFrom(() => store.select(runsFeature.selectEnded)),
      filter(([{ run }, ended]) => !isOpenRun(run) && ended.includes(run.id) && document.hidden && wantsNotices()),
      tap(([{ run }]) => new Notification(run.setTitle, { body: runStatus(run).words, tag: run.id })),
    ),
  { functional: true, dispatch: false },
);
