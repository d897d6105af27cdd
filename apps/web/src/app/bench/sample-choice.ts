import { computed, inject, Injectable, signal } from '@angular/core';
import { toObservable, toSignal } from '@angular/core/rxjs-interop';
import { Actions, ofType } from '@ngrx/effects';
import type { MasterDetail } from '@rundle/core';
import { catchError, combineLatest, filter, map, type Observable, of, shareReplay, startWith, switchMap, throttleTime } from 'rxjs';
import { Api } from '../api/api';
import { untilLoaded } from '../api/retry';
import { ViewChoices } from '../look/view-choices';
import { serverActions } from '../shell/server-news';

/** Between two looks at the sets at least, ms: while pictures arrive, they change all the time. */
const PAUSE_MS = 2000;

/** Pictures in the strip. */
export const STRIP = 5;

interface Chosen {
  setId: string;
  /** Place in the set of the first picture of the strip. */
  from: number;
  /** Null: the first that can be shown. */
  masterId: string | null;
}

const NOTHING: Chosen = { setId: '', from: 0, masterId: null };

/** The picture that presets are judged on: from any set, with its neighbours in a strip; this browser remembers the last one. */
@Injectable()
export class SampleChoice {
  private readonly api = inject(Api);
  private readonly view = inject(ViewChoices);
  private readonly chosen = signal<Chosen>(readChosen(this.view.sample()));

  /** At once, and whenever something of the sets has changed: pictures may have come in. */
  private readonly changes = inject(Actions).pipe(
    ofType(serverActions.listChanged),
    filter(({ topic }) => topic === 'sets'),
    throttleTime(PAUSE_MS, undefined, { leading: true, trailing: true }),
    startWith(null),
    shareReplay({ bufferSize: 1, refCount: true }),
  );
  /** Sets that have pictures, newest first; null: not known yet. */
  readonly sets = toSignal(
    this.changes.pipe(
      switchMap(() => this.api.listSets().pipe(untilLoaded(() => {}))),
      map((sets) => sets.filter(({ shelf, pictures }) => shelf === 'work' && pictures > 0)),
    ),
    { initialValue: null },
  );
  readonly setId = computed(() => {
    const sets = this.sets();
    const { setId } = this.chosen();
    return sets?.some(({ id }) => id === setId) ? setId : (sets?.[0]?.id ?? null);
  });
  readonly setTitle = computed(() => this.sets()?.find(({ id }) => id === this.setId())?.title ?? '');
  private readonly from = computed(() => (this.setId() === this.chosen().setId ? this.chosen().from : 0));
  private readonly sought = computed(() => ({ setId: this.setId(), from: this.from() }), {
    equal: (a, b) => a.setId === b.setId && a.from === b.from,
  });
  private readonly found = toSignal(
    combineLatest([toObservable(this.sought), this.changes]).pipe(
      switchMap(([{ setId, from }]) =>
        setId
          ? this.api.listMasters({ setId, query: { from, count: STRIP } }).pipe(
              untilLoaded(() => {}),
              map((page) => ({ ...page, setId, from })),
            )
          : of(null),
      ),
    ),
    { initialValue: null },
  );
  /** The part of the set that is sought; null: not known yet. While it is looked up again, what is known of it stands. */
  private readonly page = computed(() => {
    const [found, { setId, from }] = [this.found(), this.sought()];
    return found?.setId === setId && found?.from === from ? found : null;
  });
  readonly strip = computed(() => this.page()?.masters.filter(({ state }) => state === 'ready') ?? []);
  readonly isEmpty = computed(() => this.sets()?.length === 0);
  readonly masterId = computed(() => {
    const { masterId } = this.chosen();
    const strip = this.strip();
    return strip.some(({ id }) => id === masterId) ? masterId : (strip[0]?.id ?? null);
  });
  /** Place in the set, for the counter. */
  readonly place = computed(
    () =>
      this.from() +
      Math.max(
        0,
        this.strip().findIndex(({ id }) => id === this.masterId()),
      ),
  );
  readonly canGoBack = computed(() => this.from() > 0);
  readonly canGoOn = computed(() => {
    const page = this.page();
    return page !== null && page.from + STRIP < page.total;
  });
  private readonly times = signal(0);
  private readonly wanted = computed(() => ({ masterId: this.masterId(), times: this.times() }));
  /** All that is known of the picture; null: not known yet. */
  readonly master = computed(() => (this.loaded()?.id === this.masterId() ? this.loaded() : null));
  private readonly loaded = toSignal(
    toObservable(this.wanted).pipe(switchMap(({ masterId }) => (masterId ? this.factsOf(masterId) : of(null)))),
    {
      initialValue: null,
    },
  );

  /** Null for a picture that has gone meanwhile. */
  private factsOf(masterId: string): Observable<MasterDetail | null> {
    return this.api.getMaster({ masterId }).pipe(
      untilLoaded(() => {}),
      catchError(() => of(null)),
    );
  }

  /** What was decided about the picture has changed. */
  reload(): void {
    this.times.update((times) => times + 1);
  }

  chooseSet(setId: string): void {
    this.choose({ setId, from: 0, masterId: null });
  }

  chooseMaster(masterId: string): void {
    this.choose({ setId: this.setId() ?? '', from: this.from(), masterId });
  }

  /** The next five pictures of the set, or those before. */
  turn(pages: 1 | -1): void {
    if (pages === 1 ? this.canGoOn() : this.canGoBack())
      this.choose({ setId: this.setId() ?? '', from: Math.max(0, this.from() + pages * STRIP), masterId: null });
  }

  private choose(chosen: Chosen): void {
    this.chosen.set(chosen);
    this.view.sample.set([chosen.setId, chosen.from, chosen.masterId ?? ''].join(' '));
  }
}

function readChosen(text: string): Chosen {
  const [setId = '', from = '', masterId = ''] = text.split(' ');
  return setId ? { setId, from: Number(from) || 0, masterId: masterId || null } : NOTHING;
}
