import { computed, DestroyRef, inject, Injectable, signal } from '@angular/core';
import { takeUntilDestroyed, toObservable } from '@angular/core/rxjs-interop';
import { Store } from '@ngrx/store';
import { isOneFile, type Preset, type SampleFacts } from '@rundle/core';
import { catchError, EMPTY, from, map, mergeMap, of, switchMap } from 'rxjs';
import { sentenceOf } from '../api/problem-of';
import { SampleApi } from '../api/sample';
import { setFeature } from '../set/set.store';

/** What a preset makes of a picture. */
export interface FirstPicture {
  fileName: string;
  url: string | null;
  facts: SampleFacts | null;
  /** Why there is none. */
  problem: string | null;
}

/** Samples that are asked for at a time: the page needs connections for other things. */
const AT_A_TIME = 2;
/** Size of a picture on a card at most, px. */
const WITHIN = { width: 440, height: 300 };

/** What presets make of the first picture of the set that is open, as whole files are made. Lives as long as who shows them. */
@Injectable()
export class FirstPictures {
  private readonly samples = inject(SampleApi);
  private readonly masters = inject(Store).selectSignal(setFeature.selectMasters);
  private readonly wanted = signal<readonly { id: string; version: number; preset: Preset }[]>([]);
  private readonly pictures = signal<ReadonlyMap<string, FirstPicture>>(new Map());
  /** By id of the preset; what is not there yet is being made. */
  readonly shown = this.pictures.asReadonly();
  /** The first picture of the set that can be shown; null: there is none yet. */
  readonly master = computed(() => this.masters().find(({ state, choice }) => state === 'ready' && choice !== 'out') ?? null, {
    equal: (a, b) => keyOf(a) === keyOf(b),
  });

  constructor() {
    const asked = computed(() => ({ master: this.master(), wanted: this.wanted() }), {
      equal: (a, b) => keyOf(a.master) === keyOf(b.master) && a.wanted === b.wanted,
    });
    toObservable(asked)
      .pipe(
        switchMap(({ master, wanted }) => {
          this.forget();
          return master ? from(wanted).pipe(mergeMap((one) => this.made(master, one), AT_A_TIME)) : EMPTY;
        }),
        takeUntilDestroyed(),
      )
      .subscribe(({ id, picture }) => this.pictures.update((all) => new Map(all).set(id, picture)));
    inject(DestroyRef).onDestroy(() => this.forget());
  }

  /** Shows these presets from now on; the same as before are not made again. */
  want(presets: readonly { id: string; version: number; preset: Preset }[]): void {
    const now = this.wanted();
    const isSame =
      presets.length === now.length && presets.every(({ id, version }, at) => now[at]!.id === id && now[at]!.version === version);
    if (!isSame) this.wanted.set(presets);
  }

  private made({ id: masterId, fileName, overrides }: Asked, { id, preset }: { id: string; preset: Preset }) {
    const view = { kind: 'whole' as const, within: WITHIN };
    return this.samples.ask({ masterId, preset, decided: JSON.stringify(overrides), upTo: 'file', view, finished: isOneFile(preset) }).pipe(
      map(({ facts, picture }) => ({ id, picture: { fileName, url: URL.createObjectURL(picture), facts, problem: null } })),
      catchError((error: unknown) => of({ id, picture: { fileName, url: null, facts: null, problem: sentenceOf(error) } })),
    );
  }

  private forget(): void {
    for (const picture of this.pictures().values()) if (picture.url) URL.revokeObjectURL(picture.url);
    this.pictures.set(new Map());
  }
}

type Asked = { id: string; fileName: string; content: string | null; overrides: object };

/** All that what is made of a picture depends on beside the preset. */
const keyOf = (master: Asked | null): string => (master ? JSON.stringify([master.id, master.content, master.overrides]) : '');
