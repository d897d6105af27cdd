import { computed, DestroyRef, inject, Injectable, signal, untracked } from '@angular/core';
import { takeUntilDestroyed, toObservable } from '@angular/core/rxjs-interop';
import { Store } from '@ngrx/store';
import { appliesTo, isOneFile, type Master, type Preset, type SampleFacts } from '@rundle/core';
import { catchError, EMPTY, from, map, mergeMap, of, switchMap } from 'rxjs';
import { sentenceOf } from '../api/problem-of';
import { SampleApi } from '../api/sample';
import { setFeature } from '../set/set.store';

/** What a preset makes of a picture. */
export interface FirstPicture {
  /** Of the preset. */
  version: number;
  fileName: string;
  /** Null, without a problem: the preset is not for this picture. */
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
  private readonly wanted = signal<readonly Wanted[]>([]);
  /** Stands for the picture that those which are there are of. */
  private of = '';
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
          this.keep(wanted, keyOf(master));
          const open = wanted.filter(({ id }) => !this.pictures().has(id));
          return master ? from(open).pipe(mergeMap((one) => this.made(master, one), AT_A_TIME)) : EMPTY;
        }),
        takeUntilDestroyed(),
      )
      .subscribe(({ id, picture }) => this.pictures.update((all) => new Map(all).set(id, picture)));
    inject(DestroyRef).onDestroy(() => this.keep([], ''));
  }

  /** Shows these presets from now on; the same as before are not made again. */
  want(presets: readonly Wanted[]): void {
    const now = untracked(this.wanted);
    const isSame =
      presets.length === now.length && presets.every(({ id, version }, at) => now[at]!.id === id && now[at]!.version === version);
    if (!isSame) this.wanted.set(presets);
  }

  private made({ id: masterId, fileName, overrides, stars, tags }: Asked, { id, version, preset }: Wanted) {
    const about = { version, fileName, url: null, facts: null, problem: null };
    if (!appliesTo(preset, { rating: stars, tags })) return of({ id, picture: about });
    const view = { kind: 'whole' as const, within: WITHIN };
    return this.samples.ask({ masterId, preset, decided: JSON.stringify(overrides), upTo: 'file', view, finished: isOneFile(preset) }).pipe(
      map(({ facts, picture }) => ({ id, picture: { ...about, url: URL.createObjectURL(picture), facts } })),
      catchError((error: unknown) => of({ id, picture: { ...about, problem: sentenceOf(error) } })),
    );
  }

  /** Lets go of what is not wanted any more. @param of what stands for the picture */
  private keep(wanted: readonly Wanted[], of: string): void {
    const isKept = (id: string, { version }: FirstPicture) =>
      of === this.of && wanted.some((one) => one.id === id && one.version === version);
    const kept = [...this.pictures()].filter(([id, picture]) => isKept(id, picture));
    for (const [id, { url }] of this.pictures()) if (url && !kept.some(([one]) => one === id)) URL.revokeObjectURL(url);
    this.of = of;
    this.pictures.set(new Map(kept));
  }
}

type Wanted = { id: string; version: number; preset: Preset };
type Asked = Pick<Master, 'id' | 'fileName' | 'content' | 'overrides' | 'stars' | 'tags'>;

/** All that what is made of a picture depends on beside the preset. */
const keyOf = (master: Asked | null): string =>
  master ? JSON.stringify([master.id, master.content, master.overrides, master.stars, master.tags]) : '';
