import { debounce, defer, type MonoTypeOperatorFunction, tap, timer } from 'rxjs';

/**
 * Lets the last of several values through once no other has come for a while, but never waits longer than the longest time:
 * while 2,000 pictures arrive, something comes all the time.
 * @param quiet ms without another value
 * @param longest ms after the first that waits
 */
export function settled<T>(quiet: number, longest: number): MonoTypeOperatorFunction<T> {
  return (values) =>
    defer(() => {
      let first: number | null = null;
      return values.pipe(
        tap(() => (first ??= Date.now())),
        debounce(() => timer(Math.max(0, Math.min(quiet, (first ?? 0) + longest - Date.now())))),
        tap(() => (first = null)),
      );
    });
}
