import { DestroyRef, inject, Injectable, signal } from '@angular/core';
import { type Measured, presetAndPart, type SampleFacts, type SampleView, type Tile } from '@rundle/core';
import { catchError, concat, defer, EMPTY, from, mergeMap, type Observable, of, Subject, switchMap, tap } from 'rxjs';
import { Api } from '../api/api';
import { sentenceOf } from '../api/problem-of';
import { decidedIn, SampleApi } from '../api/sample';
import { type Asked, askedFor, fileKey } from '../look/asked';

/** What is known of a tile so far; whether it is what is wanted is told by what it was asked for. */
export interface TileState {
  look: { asked: Asked; url: string | null; facts: SampleFacts | null; problem: string | null } | null;
  /** Of its whole file, which `file` names. */
  measured: (Measured & { file: string }) | null;
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

  /** Shows another strip from now on; pictures that are there stay until the new ones are. */
  show(wish: StripWish): void {
    const places = new Set(wish.tiles.map(placeOf));
    for (const [place, { look }] of this.tiles()) if (!places.has(place) && look?.url) URL.revokeObjectURL(look.url);
    this.tiles.update((tiles) => new Map([...tiles].filter(([place]) => places.has(place))));
    for (const tile of wish.tiles) this.measure(wish, tile, this.measures.get(fileOf(wish, tile)) ?? null);
    this.wishes.next(wish);
  }

  private looks(wish: StripWish): Observable<never> {
    const { masterId, decided, tiles, view } = wish;
    const look = (tile: Tile) =>
      this.samples.ask({ masterId, preset: tile.preset, decided, upTo: 'file', view, judged: true, finished: false }).pipe(
        tap(({ facts, picture }) => this.put(wish, tile, { facts, url: URL.createObjectURL(picture), problem: null })),
        catchError((error: unknown) => of(this.put(wish, tile, { facts: null, url: null, problem: sentenceOf(error) }))),
      );
    return from(tiles).pipe(mergeMap(look, AT_A_TIME), ignored());
  }

  private weights(wish: StripWish): Observable<never> {
    const weigh = (tile: Tile) =>
      defer(() => {
        const facts = this.tiles().get(placeOf(tile))?.look?.facts;
        if (facts?.expected.length) return this.outOfFile(wish, tile, facts);
        const key = fileOf(wish, tile);
        // Another tile may be the same file: without sharpening its radius makes no difference.
        const known = this.measures.get(key);
        if (known) return of(this.measure(wish, tile, known));
        return this.api
          .measureOutput({ masterId: wish.masterId, body: { ...presetAndPart(tile.preset), ...decidedIn(wish.decided), judged: false } })
          .pipe(
            tap((measured) => {
              this.measures.set(key, measured);
              for (const oldest of this.measures.keys()) if (this.measures.size > KEPT) this.measures.delete(oldest);
              this.measure(wish, tile, measured);
            }),
            // The look has told why; without one the weight alone is missing.
            catchError(() => EMPTY),
          );
      });
    return from(wish.tiles).pipe(mergeMap(weigh, AT_A_TIME), ignored());
  }

  /** A tile that could only be expected, out of the whole file: of types whose blocks do not stand alone. */
  private outOfFile(wish: StripWish, tile: Tile, { judgement }: SampleFacts): Observable<unknown> {
    const { masterId, decided, view } = wish;
    return this.samples.ask({ masterId, preset: tile.preset, decided, upTo: 'file', view, finished: true }).pipe(
      tap(({ facts, picture }) => {
        const { bytes, quality, output } = facts;
        const measured = bytes === null ? null : { bytes, quality, ...output, judgement: null };
        this.put(wish, tile, { url: URL.createObjectURL(picture), facts: { ...facts, judgement }, problem: null });
        this.measure(wish, tile, measured);
      }),
      catchError(() => EMPTY),
    );
  }

  private put(wish: StripWish, tile: Tile, news: Omit<NonNullable<TileState['look']>, 'asked'>): void {
    const before = this.tiles().get(placeOf(tile));
    if (before?.look?.url) URL.revokeObjectURL(before.look.url);
    this.change(tile, { look: { asked: wantedOf(wish, tile), ...news } });
  }

  private measure(wish: StripWish, tile: Tile, measured: Measured | null): void {
    this.change(tile, { measured: measured && { ...measured, file: fileOf(wish, tile) } });
  }

  private change(tile: Tile, news: Partial<TileState>): void {
    this.tiles.update((tiles) => {
      const before = tiles.get(placeOf(tile)) ?? { look: null, measured: null };
      return new Map(tiles).set(placeOf(tile), { ...before, ...news });
    });
  }

  private forget(): void {
    for (const { look } of this.tiles().values()) if (look?.url) URL.revokeObjectURL(look.url);
    this.tiles.set(new Map());
  }
}

const ignored = () => mergeMap((): Observable<never> => EMPTY);

/** Where a tile stands in its strip. */
export const placeOf = ({ column, row }: Pick<Tile, 'column' | 'row'>): string => `${column} ${row}`;
/** What a tile's picture is asked for. */
export const wantedOf = ({ masterId, decided, view }: StripWish, { preset }: Tile): Asked =>
  askedFor({ masterId, decided, preset, upTo: 'file', view });
/** What decides about the weight of a tile's file. */
export const fileOf = ({ masterId, decided }: StripWish, { preset }: Tile): string => fileKey({ masterId, decided, preset });
