import { DestroyRef, inject, Injectable, signal } from '@angular/core';
import { type AxisValue, CURVE_QUALITIES, type CurvePoint, type FileTypeName, type Preset, presetAndPart, withValues } from '@rundle/core';
import { catchError, EMPTY, from, mergeMap, Subject, switchMap, tap } from 'rxjs';
import { Api } from '../api/api';
import { decidedIn } from '../api/sample';
import type { Asked } from '../look/asked';

/** Files that are made for curves: every type of every picture at the usual qualities. */
export interface CurveWish {
  masterIds: readonly string[];
  /** What is decided about each of them, as JSON. */
  decided: Readonly<Record<string, string>>;
  types: readonly FileTypeName[];
  preset: Preset;
  /** All that decides about the files. */
  asked: Asked;
}

/** Files that are made at a time: their process makes one after the other, and the next is asked for meanwhile. */
const AT_A_TIME = 2;

/** Has real files made for curves, the coarse ones of every type first. What is known already comes at once: the server keeps it. */
@Injectable()
export class CurveSource {
  private readonly api = inject(Api);
  /** What the points were asked for. */
  readonly asked = signal<Asked | null>(null);
  /** By picture and type. */
  readonly points = signal<ReadonlyMap<string, readonly CurvePoint[]>>(new Map());
  /** How many of how many files have been made. */
  readonly progress = signal({ made: 0, of: 0 });
  private readonly wishes = new Subject<CurveWish | null>();

  constructor() {
    const making = this.wishes.pipe(switchMap((wish) => (wish ? this.made(wish) : EMPTY))).subscribe();
    inject(DestroyRef).onDestroy(() => making.unsubscribe());
  }

  /** @param wish null: nothing more is made, what is there stays */
  want(wish: CurveWish | null): void {
    if (wish) {
      this.asked.set(wish.asked);
      this.points.set(new Map());
      this.progress.set({ made: 0, of: wish.masterIds.length * wish.types.length * CURVE_QUALITIES.length });
    }
    this.wishes.next(wish);
  }

  private made({ masterIds, decided, types, preset }: CurveWish) {
    const files = CURVE_QUALITIES.flatMap((quality) => masterIds.flatMap((masterId) => types.map((type) => ({ masterId, type, quality }))));
    return from(files).pipe(
      mergeMap(({ masterId, type, quality }) => {
        const values: Record<string, AxisValue> = { quality, type };
        const varied = withValues(preset, values);
        const body = {
          ...presetAndPart({ ...varied, file: { ...varied.file, ceiling: null } }),
          ...decidedIn(decided[masterId]),
          judged: true,
        };
        return this.api.measureOutput({ masterId, body }).pipe(
          tap(({ bytes, judgement }) => {
            this.progress.update(({ made, of }) => ({ made: made + 1, of }));
            if (judgement)
              this.put(`${masterId} ${type}`, { quality, bytes, difference: judgement.difference, likeness: judgement.likeness });
          }),
          // One that cannot be made is missing in its curve.
          catchError(() => {
            this.progress.update(({ made, of }) => ({ made: made + 1, of }));
            return EMPTY;
          }),
        );
      }, AT_A_TIME),
    );
  }

  private put(key: string, point: CurvePoint): void {
    this.points.update((points) => new Map(points).set(key, [...(points.get(key) ?? []), point]));
  }
}
