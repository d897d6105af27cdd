import { HttpErrorResponse, type HttpInterceptorFn } from '@angular/common/http';
import { ProblemDetails } from '@rundle/core';
import { retry, throwError, timer } from 'rxjs';

/** How often and how long apart a call is tried again while the server waits for its database: a minute in all. */
const TRIES = 30;
const PAUSE_MS = 2000;

/** What may be sent twice without being done twice. */
const REPEATABLE = new Set(['GET', 'HEAD', 'PUT', 'PATCH', 'DELETE']);

/** Tries calls again while the database is away, so that a restart of it costs nobody what they have just typed. */
export const waitForDatabase: HttpInterceptorFn = (request, next) =>
  next(request).pipe(
    retry({
      count: REPEATABLE.has(request.method) ? TRIES : 0,
      delay: (error: unknown) => (isDatabaseAway(error) ? timer(PAUSE_MS) : throwError(() => error)),
    }),
  );

function isDatabaseAway(error: unknown): boolean {
  if (!(error instanceof HttpErrorResponse) || error.status !== 503) return false;
  const problem = ProblemDetails.safeParse(error.error);
  return problem.success && problem.data.code === 'database-away';
}
