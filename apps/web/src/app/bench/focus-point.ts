import { computed, inject, Injectable, signal } from '@angular/core';
import { Store } from '@ngrx/store';
import type { Focus } from '@rundle/core';
import { Api } from '../api/api';
import { sentenceOf } from '../api/problem-of';
import { callFailed } from '../shell/problems';
import { SampleChoice } from './sample-choice';

/** What stays of the picture on the bench where presets cut: a decision about the picture, kept with its set. */
@Injectable()
export class FocusPoint {
  private readonly api = inject(Api);
  private readonly store = inject(Store);
  private readonly choice = inject(SampleChoice);
  /** What was decided before, per picture, the last one behind. */
  private readonly before = signal<readonly { masterId: string; focus: Focus | null }[]>([]);
  /** Just decided, and not yet told by the server. */
  private readonly pending = signal<{ masterId: string; focus: Focus | null } | null>(null);

  private readonly here = computed(() => {
    const master = this.choice.master();
    return master && master.id === this.choice.masterId() ? master : null;
  });
  readonly point = computed(() => this.here()?.overrides.focus ?? null);
  /** Everything that was decided about the picture, as text, for what depends on it. */
  readonly decided = computed(() => JSON.stringify(this.here()?.overrides ?? null));
  readonly canUndo = computed(() => this.before().some(({ masterId }) => masterId === this.choice.masterId()));

  set(focus: Focus | null): void {
    const master = this.here();
    if (!master) return;
    this.before.update((all) => [...all, { masterId: master.id, focus: this.pending()?.focus ?? master.overrides.focus }]);
    this.save(focus);
  }

  undo(): void {
    const masterId = this.choice.masterId();
    const last = this.before().findLast((one) => one.masterId === masterId);
    if (!last) return;
    this.before.update((all) => all.filter((one) => one !== last));
    this.save(last.focus);
  }

  private save(focus: Focus | null): void {
    const [master, setId] = [this.here(), this.choice.setId()];
    if (!master || !setId) return;
    this.pending.set({ masterId: master.id, focus });
    const marks = [{ masterId: master.id, overrides: { focus } }];
    this.api.changeMarks({ setId, body: { marks } }).subscribe({
      next: () => {
        this.pending.set(null);
        this.choice.reload();
      },
      error: (error: unknown) => {
        this.pending.set(null);
        this.store.dispatch(callFailed({ what: 'What stays of the picture was not kept', sentence: sentenceOf(error) }));
      },
    });
  }
}
