import { concatLatestFrom } from '@ngrx/operators';
import type { Store } from '@ngrx/store';
import { EMPTY, filter, type MonoTypeOperatorFunction, type Observable, type OperatorFunction, pipe, switchMap, takeUntil } from 'rxjs';
import { setFeature } from './set.store';

/** Drops what comes once another set is open than the one it is about. */
export const untilOtherSet = <T>(store: Pick<Store, 'select'>, setId: string | null): MonoTypeOperatorFunction<T> =>
  takeUntil(store.select(setFeature.selectSetId).pipe(filter((open) => open !== setId)));

/** Does something for the set that is open then: a newer wish, and another set, end what is under way. */
export const forOpenSet = <T, R>(store: Pick<Store, 'select'>, act: (setId: string, value: T) => Observable<R>): OperatorFunction<T, R> =>
  pipe(
    concatLatestFrom(() => store.select(setFeature.selectSetId)),
    switchMap(([value, setId]) => (setId === null ? EMPTY : act(setId, value).pipe(untilOtherSet(store, setId)))),
  );
