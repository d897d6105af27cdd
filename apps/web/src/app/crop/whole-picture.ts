import { inject, Injectable, type OnDestroy, signal } from '@angular/core';
import { Preset } from '@rundle/core';
import type { Subscription } from 'rxjs';
import { SampleApi } from '../api/sample';

/** How large the picture is fetched, px: as large as a stage gets on most screens. */
const WITHIN = { width: 1800, height: 1200 };
/** It is asked for when leafing has come to rest, ms. */
const REST = 120;

const AS_IT_IS = Preset.parse({ kind: 'rundle.preset', version: 1, title: 'As it is', size: { px: WITHIN.width }, sharpen: null });

/** All of a picture, without its crop, larger than the small one that every list has; null until it has come. */
@Injectable()
export class WholePicture implements OnDestroy {
  private readonly api = inject(SampleApi);
  readonly picture = signal<string | null>(null);
  private shown: string | null = null;
  private waiting: ReturnType<typeof setTimeout> | undefined;
  private asked: Subscription | undefined;

  show(masterId: string | null): void {
    if (masterId === this.shown) return;
    this.shown = masterId;
    this.drop();
    if (masterId) this.waiting = setTimeout(() => this.ask(masterId), REST);
  }

  private ask(masterId: string): void {
    const view = { kind: 'whole', within: WITHIN } as const;
    this.asked = this.api.ask({ masterId, preset: AS_IT_IS, upTo: 'colour', view, whole: true, finished: false }).subscribe({
      next: ({ picture }) => this.picture.set(URL.createObjectURL(picture)),
      // The small one stays: it is the same picture.
      error: () => undefined,
    });
  }

  private drop(): void {
    clearTimeout(this.waiting);
    this.asked?.unsubscribe();
    const url = this.picture();
    if (url) URL.revokeObjectURL(url);
    this.picture.set(null);
  }

  ngOnDestroy(): void {
    this.drop();
  }
}
