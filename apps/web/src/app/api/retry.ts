import { type MonoTypeOperatorFunction, retry, throwError, timer } from 'rxjs';
import { HttpErrorResponse } from '@angular/common/http';

/** Pauses before a load is tried again, in ms; the last one again and again. */
const PAUSES = [1000, 2000, 5000, 10_000, 30_000];

/**
 * Tries a load again, with growing pauses, until it succeeds or the server says that it is of no use.
 * @param onFailure told of each failure that is tried again
 */
export function untilLoaded<T>(onFailure: (error: unknown) => void): MonoTypeOperatorFunction<T> {
  return retry({
    delay: (error: unknown, count) => {
      if (!isPassing(error)) return throwError(() => error);
      onFailure(error);
      return timer(PAUSES[Math.min(count, PAUSES.length) - 1]!);
    },
  });
}

/** No connection and 5xx may pass in a moment. Other 4xx will be refused again. */
const isPassing = (error: unknown): boolean => error instanceof HttpErrorResponse && (error.status === 0 || error.status >= 500);
