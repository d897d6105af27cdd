import { computed, type DestroyRef, signal } from '@angular/core';
import type { SampleFacts, SampleView } from '@rundle/core';
import { catchError, concat, debounceTime, defer, EMPTY, type Observable, of, Subject, switchMap } from 'rxjs';
import { sentenceOf } from '../api/problem-of';
import type { SampleAnswer, SampleApi } from '../api/sample';
import { askedFor, type Match, matchOf, type PictureAsked } from '../look/asked';

/** What a side shows. */
export interface SideWish extends PictureAsked {
  view: Extract<SampleView, { kind: 'part' }>;
}

/** A picture that is there. */
export interface ShownSide {
  url: string;
  facts: SampleFacts;
  wish: SideWish;
}

/** How long a place has to stay until it is asked for, ms: a dragged one is asked for a few times a second. */
const QUIET = 40;

/** One of the two pictures of a close look: first as quickly as it can be had, then, where that is not yet the truth, out of the whole file. */
export class CloseSide {
  readonly shown = signal<ShownSide | null>(null);
  readonly problem = signal<string | null>(null);
  private readonly wish = signal<SideWish | null>(null);
  /** Whether what is shown is what is wanted. */
  readonly match = computed((): Match => {
    const [shown, wish] = [this.shown(), this.wish()];
    return matchOf(shown && askedFor(shown.wish), wish && askedFor(wish));
  });
  private readonly wishes = new Subject<SideWish | null>();
  private last = '';

  constructor(
    private readonly api: SampleApi,
    destroyed: DestroyRef,
  ) {
    const showing = this.wishes
      .pipe(
        debounceTime(QUIET),
        switchMap((wish) => (wish ? this.made(wish) : defer(() => of(this.put(null))))),
      )
      .subscribe();
    destroyed.onDestroy(() => {
      showing.unsubscribe();
      this.last = '';
      this.put(null);
    });
  }

  /** @param wish null: it shows nothing */
  want(wish: SideWish | null): void {
    const key = JSON.stringify(wish);
    if (key === this.last) return;
    this.last = key;
    this.wish.set(wish);
    this.problem.set(null);
    this.wishes.next(wish);
  }

  private made(wish: SideWish): Observable<unknown> {
    const ask = (finished: boolean) =>
      this.api.ask({ ...wish, finished }).pipe(
        switchMap((answer) => this.show(wish, answer)),
        catchError((error: unknown) => of(this.problem.set(sentenceOf(error)))),
      );
    const isOpen = () => {
      const shown = this.shown();
      return shown?.wish === wish && !wish.overlay && wish.upTo === 'file' && shown.facts.expected.length > 0;
    };
    return concat(
      ask(false),
      defer(() => (isOpen() ? ask(true) : EMPTY)),
    );
  }

  /** Decoded first, so that no gap is seen. */
  private async show(wish: SideWish, { facts, picture }: SampleAnswer): Promise<void> {
    const image = new Image();
    image.src = URL.createObjectURL(picture);
    await image.decode().catch(() => {});
    // Another may be wanted by now, whose picture must not be overtaken by this one.
    if (this.last !== JSON.stringify(wish)) return URL.revokeObjectURL(image.src);
    this.problem.set(null);
    this.put({ url: image.src, facts, wish });
  }

  private put(next: ShownSide | null): void {
    const before = this.shown();
    this.shown.set(next);
    if (before) setTimeout(() => URL.revokeObjectURL(before.url), 1000);
  }
}
