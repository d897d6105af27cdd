import { type Problem, type ProblemCode, type ProblemDetails, REQUEST_CODES, type RequestCode } from '@rundle/core';

/** A problem as data, as it goes between threads. */
export type ProblemParts = Pick<HttpProblem, 'status' | 'code' | 'message' | 'problems'>;

/** An error that a request ends with: status, code, a sentence, and one problem per wrong field (RFC 9457). */
export class HttpProblem extends Error {
  constructor(
    readonly status: number,
    readonly code: ProblemCode,
    message: string,
    readonly problems?: Problem[],
  ) {
    super(message);
    this.name = 'HttpProblem';
  }

  get parts(): ProblemParts {
    const { status, code, message, problems } = this;
    return { status, code, message, problems };
  }
}

/** @param message the sentence for this case, with its figures and names */
export const requestProblem = (code: RequestCode, message: string, problems?: Problem[]): HttpProblem =>
  new HttpProblem(REQUEST_CODES[code].status, code, message, problems);

export const notFound = (what: string): HttpProblem => requestProblem('not-found', `There is no such ${what} (any more).`);

/** What a call ends with while the database cannot be reached. */
export const databaseAway = (): HttpProblem =>
  requestProblem('database-away', 'The database does not answer just now. Nothing is lost; it is tried again. Wait a moment.');

/** What a call ends with for which there is no room. */
export const diskFull = (): HttpProblem =>
  new HttpProblem(507, 'disk-full', 'The disk of the machine that runs Rundle is full. Nothing is lost. Make room there, then try again.');

/** What a call ends with that hit a fault of ours; the log says more. */
export const internalProblem = (): HttpProblem =>
  requestProblem('internal', 'Something went wrong on the server. Its log says more; please try again.');

const TITLES: Record<number, string> = {
  400: 'Bad Request',
  401: 'Unauthorized',
  403: 'Forbidden',
  404: 'Not Found',
  405: 'Method Not Allowed',
  409: 'Conflict',
  412: 'Precondition Failed',
  413: 'Content Too Large',
  415: 'Unsupported Media Type',
  408: 'Request Timeout',
  421: 'Misdirected Request',
  422: 'Unprocessable Content',
  500: 'Internal Server Error',
  503: 'Service Unavailable',
  507: 'Insufficient Storage',
};

export function problemDetails({ status, code, message, problems }: HttpProblem): ProblemDetails {
  const about = { type: 'about:blank', title: TITLES[status] ?? 'Error', status, detail: message, code };
  return problems ? { ...about, problems } : about;
}
