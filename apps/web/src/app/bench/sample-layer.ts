import { type DestroyRef, signal } from '@angular/core';
import type { PixelRung, SampleFacts, SampleOverlay } from '@rundle/core';
import type { Subscription } from 'rxjs';
import type { SampleApi } from '../api/sample';
import type { Look } from './sample-source';

/** What lies over a sample: the same place before a rung, or marks on clear ground. */
export interface LayerWish {
  look: Look;
  upTo: PixelRung;
  overlay: SampleOverlay | null;
}

export interface ShownLayer {
  url: string;
  facts: SampleFacts;
  /** The sample that it belongs to. */
  look: Look;
}

/** A second picture over the sample, of the same place; it is asked for when the sample itself is there. */
export class SampleLayer {
  readonly shown = signal<ShownLayer | null>(null);
  private asking: Subscription | null = null;
  private key = '';

  constructor(
    private readonly api: SampleApi,
    destroyed: DestroyRef,
  ) {
    destroyed.onDestroy(() => this.want(null));
  }

  /** @param wish null: nothing lies over it */
  want(wish: LayerWish | null): void {
    const key = wish ? JSON.stringify(wish) : '';
    if (key === this.key) return;
    this.key = key;
    this.asking?.unsubscribe();
    this.asking = null;
    if (!wish) return this.put(null);
    const { look, upTo, overlay } = wish;
    this.asking = this.api.ask({ ...look, upTo, overlay, finished: false }).subscribe({
      next: ({ facts, picture }) => this.put({ url: URL.createObjectURL(picture), facts, look }),
      // The sample itself tells what is wrong.
      error: () => this.put(null),
    });
  }

  private put(layer: ShownLayer | null): void {
    const before = this.shown();
    this.shown.set(layer);
    if (before) URL.revokeObjectURL(before.url);
  }
}
