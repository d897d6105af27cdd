import { concatLatestFrom } from '@ngrx/operators';
import { debounce, defer, map, type MonoTypeOperatorFunction, type Observable, tap, timer } from 'rxjs';

/**
 * Lets the last of several values through once no other has come for a while, but never waits longer than the longest time:
 * while 2,000 pictures arrive, something comes all the time.
 * @param quiet ms without another value, by the last one
 * @param longest ms after the first that waits
 */
export function settled<T>(quiet: (value: T) => number, longest: number): MonoTypeOperatorFunction<T> {
  return (values) =>
    defer(() => {
      let first: number | null = null;
      return values.pipe(
        tap(() => (first ??= Date.now())),
        debounce((value) => timer(Math.max(0, Math.min(quiet(value), (first ?? 0) + longest - Date.now())))),
        tap(() => (first = null)),
      );
    });
}

/** How long at most; while pictures are still being read always so long, so that the first of them come sooner. */
const LONGEST = 3000;

/**
 * Follows changes of a set once it has settled.
 * @param arriving whether pictures are still being read
 * @param quiet how long it waits for the next change, ms
 */
export function settledSet<T>(arriving: Observable<boolean>, quiet: Observable<number>): MonoTypeOperatorFunction<T> {
  return (changes) =>
    changes.pipe(
      concatLatestFrom(() => [arriving, quiet]),
      settled(([, isArriving, ms]) => (isArriving ? LONGEST : ms), LONGEST),
      map(([change]) => change),
    );
}
