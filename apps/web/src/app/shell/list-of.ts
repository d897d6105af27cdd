import { inject } from '@angular/core';
import { takeUntilDestroyed } from '@angular/core/rxjs-interop';
import { Actions, ofType } from '@ngrx/effects';
import type { Topic } from '@rundle/core';
import { filter, type Observable, startWith } from 'rxjs';
import { serverActions } from './server-news';

/**
 * When a component has to load a list that all sets share: at once, and whenever it has changed anywhere, as long as the component is there.
 * To be called where injection is possible.
 */
export const listOf = (topic: Topic): Observable<unknown> =>
  inject(Actions).pipe(
    ofType(serverActions.listChanged),
    filter((action) => action.topic === topic),
    startWith(null),
    takeUntilDestroyed(),
  );
