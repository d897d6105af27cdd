import { DestroyRef, inject, Injectable, signal } from '@angular/core';
import {
  FINEST,
  type Preset,
  presetAndPart,
  searchCeiling,
  varied,
  type WeightCandidate,
  type WeighedFile,
  type WeightResult,
} from '@rundle/core';
import { catchError, concatMap, defer, EMPTY, firstValueFrom, from, type Observable, of, Subject, switchMap, tap } from 'rxjs';
import { Api } from '../api/api';
import { sentenceOf } from '../api/problem-of';
import { decidedIn } from '../api/sample';
import type { Asked } from '../look/asked';

/** What is looked for below a weight. */
export interface WeightWish {
  /** All that decides about what is found. */
  asked: Asked;
  masterIds: readonly string[];
  /** What is decided about each of them, as JSON. */
  decided: Readonly<Record<string, string>>;
  candidates: readonly WeightCandidate[];
  preset: Preset;
  bytes: number;
}

/** What is known of a candidate so far. */
export interface CandidateState extends WeightResult {
  asked: Asked;
  problem: string | null;
}

/** Finds the highest quality below a weight, candidate by candidate and picture by picture, by files that are made. The newest wish only. */
@Injectable()
export class WeightSource {
  private readonly api = inject(Api);
  readonly results = signal<ReadonlyMap<string, CandidateState>>(new Map());
  private readonly wishes = new Subject<WeightWish | null>();
  private newest: WeightWish | null = null;

  constructor() {
    const looking = this.wishes.pipe(switchMap((wish) => (wish ? this.found(wish) : EMPTY))).subscribe();
    inject(DestroyRef).onDestroy(() => {
      this.newest = null;
      looking.unsubscribe();
    });
  }

  /** @param wish null: nothing more is looked for */
  want(wish: WeightWish | null): void {
    this.newest = wish;
    this.results.set(new Map());
    this.wishes.next(wish);
  }

  private found(wish: WeightWish): Observable<unknown> {
    const { masterIds, candidates, asked } = wish;
    for (const { key } of candidates) this.put({ key, asked, files: [], tooHeavy: 0, of: masterIds.length, problem: null });
    return from(candidates).pipe(
      concatMap((candidate) => from(masterIds).pipe(concatMap((masterId) => this.fileOf(wish, candidate, masterId)))),
    );
  }

  private fileOf(wish: WeightWish, { key, values }: WeightCandidate, masterId: string): Observable<unknown> {
    const known = () => this.results().get(key)!;
    // What cannot be made of one picture is not tried of the next.
    if (known().problem !== null) return EMPTY;
    return defer(() => this.search(wish, values, masterId)).pipe(
      tap((file) => {
        const before = known();
        this.put(file ? { ...before, files: [...before.files, file] } : { ...before, tooHeavy: before.tooHeavy + 1 });
      }),
      // The next candidate is tried all the same.
      catchError((error: unknown) => of(this.put({ ...known(), problem: sentenceOf(error) }))),
    );
  }

  /** @returns null: no quality is so light */
  private async search(wish: WeightWish, values: WeightCandidate['values'], masterId: string): Promise<WeighedFile | null> {
    const { preset, bytes } = wish;
    const measure = (quality: number, judged: boolean) => {
      // Nothing more is made for what is not wanted any more.
      if (this.newest !== wish) throw new Error('Another weight is asked for.');
      const made = varied(preset, { ...values, quality });
      const body = { ...presetAndPart({ ...made, file: { ...made.file, ceiling: null } }), ...decidedIn(wish.decided[masterId]), judged };
      return firstValueFrom(this.api.measureOutput({ masterId, body }));
    };
    const { fits, quality } = await searchCeiling((tried) => measure(tried, false), { bytes, floor: 1 }, FINEST);
    if (!fits) return null;
    const { bytes: weight, judgement } = await measure(quality, true);
    if (!judgement) throw new Error('What is lost cannot be told in these colours; in sRGB it can.');
    return { quality, bytes: weight, difference: judgement.difference };
  }

  private put(state: CandidateState): void {
    this.results.update((results) => new Map(results).set(state.key, state));
  }
}
