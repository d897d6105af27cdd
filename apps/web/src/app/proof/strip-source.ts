import { DestroyRef, inject, Injectable, signal } from '@angular/core';
import type { Measured, Preset, SampleFacts, SampleView, Tile } from '@rundle/core';
import { catchError, concat, defer, EMPTY, from, mergeMap, type Observable, of, Subject, switchMap, tap } from 'rxjs';
import { Api } from '../api/api';
import { sentenceOf } from '../api/problem-of';
import { SampleApi } from '../api/sample';

/** What is known of a tile so far. */
export interface TileState {
  url: string | null;
  facts: SampleFacts | null;
  /** Of its whole file. */
  measured: Measured | null;
  problem: string | null;
}

/** What a strip shows. */
export interface StripWish {
  masterId: string;
  /** What was decided about the picture itself: another decision makes other files. */
  decided: string;
  tiles: readonly Tile[];
  view: SampleView;
}

/** Looks that are on their way at a time: one is made while the one before travels. Connections are few, and others need some. */
const AT_A_TIME = 2;
/** Measures that are remembered. */
const KEPT = 400;

const UNKNOWN: TileState = { url: null, facts: null, measured: null, problem: null };

/** Gets the tiles of a strip, the first of them first, then what their whole files weigh. The newest strip only. */
@Injectable()
export class StripSource {
  private readonly samples = inject(SampleApi);
  private readonly api = inject(Api);
  /** By place in the strip, `column row`. */
  readonly tiles = signal<ReadonlyMap<string, TileState>>(new Map());
  private readonly wishes = new Subject<StripWish>();
  private readonly measures = new Map<string, Measured>();

  constructor() {
    const showing = this.wishes.pipe(switchMap((wish) => concat(this.looks(wish), this.weights(wish)))).subscribe();
    inject(DestroyRef).onDestroy(() => {
      showing.unsubscribe();
      this.forget();
    });
  }

  /** Shows another strip from now on. @param isSame whether its files are those before, so that the old pictures stay until the new ones are there */
  show(wish: StripWish, isSame: boolean): void {
    if (!isSame) this.forget();
    const known = (tile: Tile) => this.measures.get(measureKey(wish, tile.preset));
    for (const tile of wish.tiles) this.put(tile, { measured: known(tile) ?? null });
    this.wishes.next(wish);
  }

  private looks({ masterId, tiles, view }: StripWish): Observable<never> {
    const look = (tile: Tile) =>
      this.samples.ask({ masterId, preset: tile.preset, upTo: 'file', view, judged: true, finished: false }).pipe(
        tap(({ facts, picture }) => this.put(tile, { facts, url: URL.createObjectURL(picture), problem: null })),
        catchError((error: unknown) => of(this.put(tile, { problem: sentenceOf(error) }))),
      );
    return from(tiles).pipe(mergeMap(look, AT_A_TIME), ignored());
  }

  private weights(wish: StripWish): Observable<never> {
    const weigh = (tile: Tile) =>
      defer(() => {
        const facts = this.tiles().get(`${tile.column} ${tile.row}`)?.facts;
        if (facts?.expected.length) return this.outOfFile(wish, tile, facts);
        const key = measureKey(wish, tile.preset);
        // Another tile may be the same file: without sharpening its radius makes no difference.
        const known = this.measures.get(key);
        if (known) return of(this.put(tile, { measured: known }));
        return this.api.measureOutput({ masterId: wish.masterId, body: { preset: tile.preset, judged: false } }).pipe(
          tap((measured) => {
            this.measures.set(key, measured);
            for (const oldest of this.measures.keys()) if (this.measures.size > KEPT) this.measures.delete(oldest);
            this.put(tile, { measured });
          }),
          // The look has told why; without one the weight alone is missing.
          catchError(() => EMPTY),
        );
      });
    return from(wish.tiles).pipe(mergeMap(weigh, AT_A_TIME), ignored());
  }

  /** A tile that could only be expected, out of the whole file: of types whose blocks do not stand alone. */
  private outOfFile({ masterId, view }: StripWish, tile: Tile, { judgement }: SampleFacts): Observable<unknown> {
    return this.samples.ask({ masterId, preset: tile.preset, upTo: 'file', view, finished: true }).pipe(
      tap(({ facts, picture }) => {
        const { bytes, quality, output } = facts;
        const measured = bytes === null ? null : { bytes, quality, ...output, judgement: null };
        this.put(tile, { url: URL.createObjectURL(picture), facts: { ...facts, judgement }, measured });
      }),
      catchError(() => EMPTY),
    );
  }

  private put({ column, row }: Tile, news: Partial<TileState>): void {
    const key = `${column} ${row}`;
    const before = this.tiles().get(key);
    if (before?.url && news.url) URL.revokeObjectURL(before.url);
    this.tiles.update((tiles) => new Map(tiles).set(key, { ...UNKNOWN, ...before, ...news }));
  }

  private forget(): void {
    for (const { url } of this.tiles().values()) if (url) URL.revokeObjectURL(url);
    this.tiles.set(new Map());
  }
}

const ignored = () => mergeMap((): Observable<never> => EMPTY);

/** What decides about the weight of a file. */
const measureKey = ({ masterId, decided }: StripWish, { size, colour, sharpen, mark, border, file, metadata }: Preset): string =>
  JSON.stringify([masterId, decided, size, colour, sharpen, mark, border, file, metadata]);
