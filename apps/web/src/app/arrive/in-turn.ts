import { Observable } from 'rxjs';

/**
 * Begins once one of a few places is free, which all pages of the browser share: a browser opens six connections to a server at most
 * (HTTP/1.1), and pictures and lists need some of them while files are sent. The place is given back when the work ends, or its page.
 * @param places how many there are
 */
export function inTurn<T>(places: number, work: Observable<T>): Observable<T> {
  // Where the browser has no locks, a page counts for itself only.
  if (typeof navigator === 'undefined' || !('locks' in navigator)) return work;
  return new Observable((observer) => {
    const ended = new AbortController();
    let begun = false;
    for (let place = 0; place < places; place++)
      navigator.locks
        .request(`rundle-upload-${place}`, { signal: ended.signal }, async () => {
          // Two places may come free at once.
          if (begun || ended.signal.aborted) return;
          begun = true;
          await new Promise<void>((release) => {
            const working = work.subscribe({ next: (value) => observer.next(value), error: fail, complete: done });
            ended.signal.addEventListener('abort', () => {
              working.unsubscribe();
              release();
            });
            function fail(error: unknown): void {
              release();
              observer.error(error);
            }
            function done(): void {
              release();
              observer.complete();
            }
          });
        })
        .catch(() => {}); // it ended while it waited
    return () => ended.abort();
  });
}
