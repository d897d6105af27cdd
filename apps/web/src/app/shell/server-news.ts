import { inject } from '@angular/core';
import { createEffect } from '@ngrx/effects';
import { createActionGroup, props } from '@ngrx/store';
import { type Run, type Topic, TOPICS } from '@rundle/core';
import { from, map, merge, mergeMap } from 'rxjs';
import { ServerEvents } from '../api/stream/server-events';

/** What the server tells of things that no single set owns. */
export const serverActions = createActionGroup({
  source: 'Server',
  events: {
    /** A list that all sets share has changed, here, on another page or by another program. */
    'List changed': props<{ topic: Topic }>(),
    'Run changed': props<{ run: Run }>(),
  },
});

export const serverEffects = {
  tellNews: createEffect(
    (events = inject(ServerEvents)) =>
      merge(
        events.news.pipe(
          mergeMap((event) => {
            if (event.about === 'topic') return [serverActions.listChanged({ topic: event.topic })];
            return event.about === 'run' ? [serverActions.runChanged({ run: event.run })] : [];
          }),
        ),
        // Changes during a lost connection are unknown.
        events.back.pipe(mergeMap(() => from(TOPICS).pipe(map((topic) => serverActions.listChanged({ topic }))))),
      ),
    { functional: true },
  ),
};
