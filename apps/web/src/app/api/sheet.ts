import { HttpClient, HttpErrorResponse, HttpEventType } from '@angular/common/http';
import { inject, Injectable } from '@angular/core';
import { addressOf, type SheetWish } from '@rundle/core';
import { catchError, filter, from, map, type Observable, switchMap, throwError } from 'rxjs';
import { readable } from './sample';

/** A sheet on its way: how much of it has come, bytes; and in the end all of it. */
export type SheetProgress = { bytes: number; pdf: Blob | null };

/** Asks the server for a sheet. Whoever does not wait any longer unsubscribes; the server then drops the work. */
@Injectable({ providedIn: 'root' })
export class SheetApi {
  private readonly http = inject(HttpClient);

  make(setId: string, wish: SheetWish): Observable<SheetProgress> {
    const options = { observe: 'events', reportProgress: true, responseType: 'blob' } as const;
    return this.http.post(addressOf('makeSheet', { setId }), wish, options).pipe(
      map((event): SheetProgress | null => {
        if (event.type === HttpEventType.DownloadProgress) return { bytes: event.loaded, pdf: null };
        if (event.type === HttpEventType.Response) return { bytes: event.body?.size ?? 0, pdf: event.body };
        return null;
      }),
      filter((progress) => progress !== null),
      catchError((error: unknown) => from(readable(error)).pipe(switchMap((read) => throwError(() => brokenOff(read))))),
    );
  }
}

/** A document that broke off in the middle is told as that, and not as a server that is away. */
const brokenOff = (error: unknown): unknown =>
  error instanceof HttpErrorResponse && error.status === 200
    ? new Error('The sheet was not finished: it broke off in the middle. Try again.')
    : error;
