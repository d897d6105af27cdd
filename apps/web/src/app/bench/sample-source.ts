import { computed, DestroyRef, inject, Injectable, signal } from '@angular/core';
import { isOneFile, type Preset, type SampleFacts, type SampleView } from '@rundle/core';
import { type Subscription, timer } from 'rxjs';
import { switchMap } from 'rxjs/operators';
import { sentenceOf } from '../api/problem-of';
import { SampleApi, type SampleAnswer } from '../api/sample';
import { askedFor, fileKey, type Match, matchOf, type PictureAsked } from '../look/asked';

/** What the bench wants to see. */
export type Look = PictureAsked & { whole: boolean };

/** A picture on the bench, and what is known of it. */
export interface ShownSample {
  url: string;
  facts: SampleFacts;
  look: Look;
}

/** How long nothing has to change before the whole file is made, in ms: while a value is still being turned, that would be for nothing. */
const REST = 200;
/** How long a picture may take before the page says that it is being made, in ms. */
const SLOW = 1500;
/** Whole files whose figures are remembered. */
const FIGURES_KEPT = 50;

/**
 * Gets what the bench wants to see: the newest look only, first as quickly as it can be had, then with the figures of the whole file. A look at
 * another place does not end one that is on its way, or nothing would be seen while the picture is dragged.
 */
@Injectable()
export class SampleSource {
  private readonly api = inject(SampleApi);
  readonly shown = signal<ShownSample | null>(null);
  readonly problem = signal<string | null>(null);
  private readonly wanted = signal<Look | null>(null);
  /** Whether what is shown is what is wanted. */
  readonly match = computed((): Match => {
    const [shown, wanted] = [this.shown(), this.wanted()];
    return matchOf(shown && askedFor(shown.look), wanted && askedFor(wanted));
  });
  /** What is wanted takes long enough for a word about it. */
  readonly isSlow = signal(false);
  /** Figures of whole files, by what they were made of. */
  readonly figures = signal<ReadonlyMap<string, SampleFacts>>(new Map());

  private onItsWay: { look: Look; subscription: Subscription } | null = null;
  private finishing: { key: string; subscription: Subscription } | null = null;
  private comparing: Subscription | null = null;
  private waiting: ReturnType<typeof setTimeout> | null = null;

  constructor() {
    inject(DestroyRef).onDestroy(() => {
      this.onItsWay?.subscription.unsubscribe();
      this.dropWholeFiles();
      const shown = this.shown();
      if (shown) URL.revokeObjectURL(shown.url);
    });
  }

  /** Wants to see something else from now on. */
  look(look: Look): void {
    const before = this.wanted();
    this.wanted.set(look);
    if (!before || !sameFile(before, look)) {
      // Whole files of what was wanted before are for nothing now, and would only slow this down; what went wrong with it is no matter any more.
      this.dropWholeFiles();
      this.problem.set(null);
    }
    const { onItsWay } = this;
    if (onItsWay && sameFile(onItsWay.look, look)) return;
    onItsWay?.subscription.unsubscribe();
    this.ask(look);
  }

  /** Has the weight of another version of the preset worked out, for comparison; what is seen goes first. */
  compare(masterId: string, preset: Preset, decided: string): void {
    const key = fileKey({ masterId, preset, decided });
    this.comparing?.unsubscribe();
    if (this.figures().has(key) || !isOneFile(preset)) return;
    const question = { masterId, preset, decided, upTo: 'colour' as const, view: TINY, finished: true };
    this.comparing = timer(4 * REST)
      .pipe(switchMap(() => this.api.ask(question)))
      .subscribe({ next: ({ facts }) => this.remember(key, facts), error: () => {} });
  }

  /** Whether it is still this file that is wanted. */
  private isWanted(look: Look): boolean {
    const wanted = this.wanted();
    return wanted !== null && sameFile(wanted, look);
  }

  private isThere(): void {
    if (this.waiting) clearTimeout(this.waiting);
    this.waiting = null;
    this.isSlow.set(false);
  }

  private dropWholeFiles(): void {
    this.finishing?.subscription.unsubscribe();
    this.finishing = null;
    this.comparing?.unsubscribe();
  }

  private ask(look: Look): void {
    this.waiting ??= setTimeout(() => this.isSlow.set(true), SLOW);
    const subscription = this.api.ask({ ...look, finished: false }).subscribe({
      next: (answer) => void this.show(look, answer),
      error: (error: unknown) => {
        if (this.isWanted(look)) this.problem.set(sentenceOf(error));
        this.isThere();
        this.goOn(look);
      },
    });
    this.onItsWay = { look, subscription };
  }

  private async show(look: Look, { facts, picture }: SampleAnswer): Promise<void> {
    await this.put(look, facts, picture, () => this.isWanted(look));
    if (this.isWanted(look)) this.problem.set(null);
    this.isThere();
    this.goOn(look);
  }

  /** Puts a picture in the place of the one before, if it is still wanted once it has been decoded: a gap would be seen otherwise. */
  private async put(look: Look, facts: SampleFacts, picture: Blob, isWanted: () => boolean): Promise<void> {
    const url = URL.createObjectURL(picture);
    const image = new Image();
    image.src = url;
    await image.decode().catch(() => {});
    const before = this.shown();
    if (!isWanted()) {
      URL.revokeObjectURL(url);
      return;
    }
    this.shown.set({ url, facts, look });
    if (before) setTimeout(() => URL.revokeObjectURL(before.url), 1000);
  }

  /** The next look, or the whole file when there is none. */
  private goOn(seen: Look): void {
    if (this.onItsWay?.look === seen) this.onItsWay = null;
    const wanted = this.wanted();
    if (!wanted || this.onItsWay) return;
    if (wanted !== seen) {
      this.ask(wanted);
      return;
    }
    this.finish(wanted);
  }

  private finish(look: Look): void {
    // All of the master is no file of the preset.
    if (look.whole || !isOneFile(look.preset)) return;
    const key = fileKey(look);
    const shown = this.shown();
    const isOpen = look.upTo === 'file' && shown?.look === look && shown.facts.expected.length > 0;
    if (this.figures().has(key) && !isOpen) return;
    if (this.finishing?.key === key && !isOpen) return;
    this.finishing?.subscription.unsubscribe();
    const subscription = timer(REST)
      .pipe(switchMap(() => this.api.ask({ ...look, finished: true })))
      .subscribe({
        next: (answer) => {
          this.finishing = null;
          this.remember(key, answer.facts);
          // The picture as it was found in the whole file, where it could only be expected before.
          if (isOpen && this.wanted() === look) void this.put(look, answer.facts, answer.picture, () => this.wanted() === look);
        },
        error: (error: unknown) => {
          this.finishing = null;
          if (this.isWanted(look)) this.problem.set(sentenceOf(error));
        },
      });
    this.finishing = { key, subscription };
  }

  private remember(key: string, facts: SampleFacts): void {
    this.figures.update((known) => new Map([...[...known].slice(-FIGURES_KEPT), [key, facts]]));
  }
}

const TINY: SampleView = { kind: 'whole', within: { width: 8, height: 8 } };

const sameFile = (a: Look, b: Look): boolean => a.whole === b.whole && fileKey(a) === fileKey(b);
