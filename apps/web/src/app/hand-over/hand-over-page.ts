import { ChangeDetectionStrategy, Component, computed, inject, input, signal } from '@angular/core';
import { Router, RouterLink } from '@angular/router';
import { Store } from '@ngrx/store';
import { isOpenDelivery, reviewSentence } from '@rundle/core';
import { NzButtonModule } from 'ng-zorro-antd/button';
import { NzIconModule } from 'ng-zorro-antd/icon';
import { NzSkeletonModule } from 'ng-zorro-antd/skeleton';
import { counted } from '../look/figures';
import { whenLookedAt } from '../look/when-looked-at';
import { planFeature } from '../plan/plan.store';
import { presetsActions } from '../presets/presets.store';
import { Deliver } from './deliver';
import { Deliveries } from './deliveries';
import { handOverActions, handOverFeature } from './hand-over.store';
import { Review } from './review';

/** Hand over: what came out is looked through, and delivered. */
@Component({
  selector: 'rd-hand-over-page',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [RouterLink, NzButtonModule, NzIconModule, NzSkeletonModule, Deliver, Review],
  providers: [Deliveries],
  templateUrl: './hand-over-page.html',
  styleUrl: './hand-over-page.less',
})
export class HandOverPage {
  /** Of the address: `deliver`, or nothing. */
  readonly way = input<string>();
  private readonly store = inject(Store);
  private readonly router = inject(Router);
  private readonly deliveries = inject(Deliveries);
  protected readonly view = this.store.selectSignal(handOverFeature.selectView);
  protected readonly ready = this.store.selectSignal(handOverFeature.selectReady);
  private readonly asideFiles = this.store.selectSignal(handOverFeature.selectAside);
  /** Files that are not as they were made, by what has become of them. */
  protected readonly aside = computed(() => {
    const aside = this.asideFiles();
    const changed = aside.filter(({ file }) => file === 'changed');
    const missing = aside.filter(({ file }) => file === 'missing');
    const is = (files: readonly unknown[], one: string, many: string) =>
      `${counted(files.length, 'file')} ${files.length === 1 ? one : many}`;
    return [
      {
        words: is(
          changed,
          'was changed by somebody since it was made: it stays where it is, and is not handed over',
          'were changed by somebody since they were made: they stay where they are, and are not handed over',
        ),
        files: changed,
      },
      {
        words: is(
          missing,
          'is not at its place any more: run the set, and it is made again',
          'are not at their places any more: run the set, and they are made again',
        ),
        files: missing,
      },
    ].filter(({ files }) => files.length > 0);
  });
  private readonly overCeiling = this.store.selectSignal(handOverFeature.selectOverCeiling);
  private readonly weights = this.store.selectSignal(handOverFeature.selectWeights);
  private readonly progress = this.store.selectSignal(planFeature.selectProgress);
  private readonly list = this.store.selectSignal(handOverFeature.selectDeliveries);

  /** What can be relied on, and how the last run ended where it did not end well. */
  protected readonly sentence = computed(() => {
    const { before, after } = this.weights();
    return reviewSentence(this.ready(), after, before, this.overCeiling(), this.progress());
  });
  /** What goes on beside what is out already. */
  protected readonly underWay = computed(() => {
    const progress = this.progress();
    return progress?.isOpen ? `A run of this set is under way: ${progress.words}.` : null;
  });
  protected readonly failure = computed(() => {
    const progress = this.progress();
    return progress?.stage === 'ended' && progress.failed > 0 ? progress.words : null;
  });
  protected readonly ways = computed(() => [
    { id: '', name: 'Look through', figures: counted(this.ready(), 'file') },
    { id: 'deliver', name: 'Deliver', figures: this.deliveryFigures() },
  ]);
  protected readonly wayNow = computed(() => (this.way() === 'deliver' ? 'deliver' : ''));
  /** A file is looked at large: all the room is its. */
  protected readonly isLarge = signal(false);
  /** The ZIP has been asked for and is being checked. */
  protected readonly isPacking = signal(false);

  constructor() {
    this.store.dispatch(presetsActions.wanted());
    whenLookedAt(() => this.store.dispatch(handOverActions.lookedAt()));
  }

  protected go(way: string): void {
    void this.router.navigate([], { queryParams: { way: way || null }, queryParamsHandling: 'merge', replaceUrl: true });
  }

  protected zip(): void {
    this.isPacking.set(true);
    this.deliveries.zip(
      () => this.isPacking.set(false),
      () => this.go('deliver'),
    );
  }

  private deliveryFigures(): string {
    const list = this.list();
    if (!list) return '…';
    const open = list.filter(isOpenDelivery).length;
    const held = list.filter(({ state }) => state === 'held').length;
    if (held) return `${held} ${held === 1 ? 'waits' : 'wait'} for you`;
    if (open) return `${open} under way`;
    return list.length ? counted(list.length, 'delivery', 'deliveries') : 'none yet';
  }
}
