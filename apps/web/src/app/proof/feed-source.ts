import { DestroyRef, inject, Injectable, signal } from '@angular/core';
import { type FeedTrip, type Preset, presetAndPart } from '@rundle/core';
import { catchError, concatMap, debounceTime, from, of, Subject, switchMap, tap } from 'rxjs';
import { Api } from '../api/api';
import { sentenceOf } from '../api/problem-of';
import { decidedIn } from '../api/sample';
import type { Asked } from '../look/asked';

/** What is known of a picture on its way through a feed; both null: it has not come back yet. */
export interface TripState {
  /** What was sent, and to what. */
  asked: Asked;
  trip: FeedTrip | null;
  problem: string | null;
}

/** What is sent to a feed. */
export interface FeedWish {
  /** All that decides about what comes back. */
  what: string;
  masterId: string;
  /** What is decided about it, as JSON. */
  decided: string;
  feed: string;
  /** By what they are known. */
  presets: readonly { key: string; preset: Preset }[];
}

/** How long a wish has to stay until anything is sent, ms. */
const QUIET = 80;

/** Sends files of several presets through a feed, one after another. The newest wish only. */
@Injectable()
export class FeedSource {
  private readonly api = inject(Api);
  readonly trips = signal<ReadonlyMap<string, TripState>>(new Map());
  private readonly wishes = new Subject<FeedWish>();

  constructor() {
    const sending = this.wishes
      .pipe(
        debounceTime(QUIET),
        switchMap((wish) => from(wish.presets).pipe(concatMap((one) => this.send(wish, one)))),
      )
      .subscribe();
    inject(DestroyRef).onDestroy(() => sending.unsubscribe());
  }

  private send({ what, masterId, decided, feed }: FeedWish, { key, preset }: FeedWish['presets'][number]) {
    const asked = { what, where: key };
    return this.api.sendThroughFeed({ masterId, body: { preset: presetAndPart(preset).preset, ...decidedIn(decided), feed } }).pipe(
      tap((trip) => this.put(key, { asked, trip, problem: null })),
      catchError((error: unknown) => of(this.put(key, { asked, trip: null, problem: sentenceOf(error) }))),
    );
  }

  /** Sends these from now on; what came of others is forgotten. */
  want(wish: FeedWish): void {
    this.trips.set(new Map());
    this.wishes.next(wish);
  }

  private put(key: string, state: TripState): void {
    this.trips.update((trips) => new Map(trips).set(key, state));
  }
}
