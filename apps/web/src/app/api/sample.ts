import { HttpClient, HttpErrorResponse } from '@angular/common/http';
import { inject, Injectable } from '@angular/core';
import {
  addressOf,
  type Decisions,
  type PixelRung,
  type Preset,
  presetAndPart,
  SAMPLE_HEADER,
  SampleFacts,
  type SampleOverlay,
  type SampleView,
} from '@rundle/core';
import { catchError, from, map, type Observable, switchMap, throwError } from 'rxjs';

/** A look at what a preset makes of a master. */
export interface SampleQuestion {
  masterId: string;
  preset: Preset;
  /** What is decided about the picture, as JSON; without it what the server knows. */
  decided?: string;
  upTo: PixelRung;
  view: SampleView;
  /** Instead of the picture: marks on clear ground. */
  overlay?: SampleOverlay | null;
  /** Whether all of the master is shown, though the preset cuts it. */
  whole?: boolean;
  /** Whether the whole file is made for it. */
  finished: boolean;
  /** Whether the difference to the unencoded picture is told. */
  judged?: boolean;
}

export interface SampleAnswer {
  facts: SampleFacts;
  picture: Blob;
}

/** Asks the server for samples. Whoever does not wait any longer unsubscribes; the server then drops the work. */
@Injectable({ providedIn: 'root' })
export class SampleApi {
  private readonly http = inject(HttpClient);

  ask({
    masterId,
    preset,
    decided,
    upTo,
    view,
    overlay = null,
    whole = false,
    finished,
    judged = false,
  }: SampleQuestion): Observable<SampleAnswer> {
    return this.http
      .post(
        addressOf('getSample', { masterId }),
        { ...presetAndPart(preset), ...decidedIn(decided), upTo, view, overlay, whole, finished, judged },
        { observe: 'response', responseType: 'blob' },
      )
      .pipe(
        map(({ headers, body: picture }) => ({
          facts: SampleFacts.parse(JSON.parse(decodeURIComponent(headers.get(SAMPLE_HEADER) ?? ''))),
          picture: picture!,
        })),
        catchError((error: unknown) => from(readable(error)).pipe(switchMap((read) => throwError(() => read)))),
      );
  }
}

/**
 * What is decided about a picture as a wish carries it: a decision is on the screen before the server has kept it.
 * @param decided JSON; null and nothing where it is not known
 */
export function decidedIn(decided: string | undefined): { decided?: Decisions } {
  const decisions = decided ? (JSON.parse(decided) as Decisions | null) : null;
  return decisions ? { decided: decisions } : {};
}

/** An error whose body is JSON: for an answer that would have been a picture, the browser keeps that as bytes. */
export async function readable(error: unknown): Promise<unknown> {
  if (!(error instanceof HttpErrorResponse) || !(error.error instanceof Blob)) return error;
  const { headers, status, url } = error;
  const text = await error.error.text();
  let body: unknown = null;
  try {
    body = JSON.parse(text);
  } catch {
    // What is no JSON is told by its status.
  }
  return new HttpErrorResponse({ error: body, headers, status, ...(url ? { url } : {}) });
}
