import { HttpErrorResponse } from '@angular/common/http';
import { ProblemDetails } from '@rundle/core';

/** The sentence shown for a failed call: the server's own, or that the server cannot be reached. */
export function sentenceOf(error: unknown): string {
  if (!(error instanceof HttpErrorResponse)) return error instanceof Error ? error.message : String(error);
  const problem = ProblemDetails.safeParse(error.error);
  if (problem.success) return problem.data.detail;
  return error.status === 0
    ? 'The server does not answer. Check that Rundle is running, then try again.'
    : `The server answered ${error.status}.`;
}

/** The same with a sentence for each field that is wrong, where the server names some. */
export function problemsOf(error: unknown): string[] {
  const problem = error instanceof HttpErrorResponse ? ProblemDetails.safeParse(error.error) : null;
  const each = problem?.success ? (problem.data.problems ?? []).map(({ message }) => message) : [];
  return each.length ? each : [sentenceOf(error)];
}
