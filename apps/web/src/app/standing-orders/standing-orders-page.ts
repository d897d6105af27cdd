import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { RouterLink } from '@angular/router';
import { Actions, ofType } from '@ngrx/effects';
import { Store } from '@ngrx/store';
import { daySentence, type OrderFile, placeWords, type StandingOrder } from '@rundle/core';
import { NzButtonModule } from 'ng-zorro-antd/button';
import { auditTime, catchError, EMPTY, merge, type Observable, switchMap } from 'rxjs';
import { Api } from '../api/api';
import { sentenceOf } from '../api/problem-of';
import { presetsActions, presetsFeature } from '../presets/presets.store';
import { listOf } from '../shell/list-of';
import { callFailed } from '../shell/problems';
import { serverActions } from '../shell/server-news';
import { OrderForm } from './order-form';

/** While a run goes on, what an order did today is told so often, in ms. */
const FOLLOW_MS = 1000;

/** Folders that are watched, what each did today, and what became of every file. */
@Component({
  selector: 'rd-standing-orders-page',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [RouterLink, NzButtonModule, OrderForm],
  templateUrl: './standing-orders-page.html',
  styleUrl: './standing-orders-page.less',
})
export class StandingOrdersPage {
  private readonly api = inject(Api);
  private readonly store = inject(Store);
  private readonly presets = this.store.selectSignal(presetsFeature.selectList);
  private readonly list = signal<readonly StandingOrder[] | null>(null);
  protected readonly loaded = computed(() => this.list() !== null);
  /** The id of the order that is being changed; `new`: one that is being written down. */
  protected readonly editing = signal<string | null>(null);
  /** The order that is about to be ended. */
  protected readonly ending = signal<string | null>(null);
  /** The order whose files are shown, with them. */
  protected readonly shown = signal<{ orderId: string; files: readonly (OrderFile & { when: string; fateWords: string })[] } | null>(null);

  protected readonly orders = computed(() =>
    (this.list() ?? []).map((order) => ({
      ...order,
      sentence: daySentence(order.today),
      titles: order.presetIds.map((id) => this.presets().find((preset) => preset.id === id)?.preset.title ?? 'a deleted preset').join(', '),
      placeWords: placeWords(order.place),
      order,
    })),
  );

  constructor() {
    this.store.dispatch(presetsActions.wanted());
    const runs = inject(Actions).pipe(ofType(serverActions.runChanged), auditTime(FOLLOW_MS));
    merge(listOf('standing-orders'), runs)
      .pipe(switchMap(() => this.orElse(this.api.listStandingOrders(), 'The standing orders could not be loaded')))
      .subscribe((list) => {
        this.list.set(list);
        const shown = this.shown();
        if (shown) this.show(shown.orderId);
      });
  }

  protected switchOn(orderId: string, on: boolean): void {
    this.orElse(this.api.changeStandingOrder({ orderId, body: { on } }), 'The standing order was not changed').subscribe((changed) =>
      this.list.update((list) => (list ?? []).map((one) => (one.id === orderId ? changed : one))),
    );
  }

  protected end(orderId: string): void {
    this.orElse(this.api.deleteStandingOrder({ orderId }), 'The standing order was not ended').subscribe(() =>
      this.list.update((list) => (list ?? []).filter(({ id }) => id !== orderId)),
    );
  }

  protected toggleFiles(orderId: string): void {
    if (this.shown()?.orderId === orderId) this.shown.set(null);
    else this.show(orderId);
  }

  private show(orderId: string): void {
    this.orElse(this.api.listOrderFiles({ orderId }), 'What came could not be loaded').subscribe((files) =>
      this.shown.set({ orderId, files: files.map((file) => ({ ...file, when: whenOf(file), fateWords: fateWords(file) })) }),
    );
  }

  private orElse<T>(call: Observable<T>, what: string): Observable<T> {
    return call.pipe(
      catchError((error: unknown) => {
        this.store.dispatch(callFailed({ what, sentence: sentenceOf(error) }));
        return EMPTY;
      }),
    );
  }
}

const whenOf = ({ at }: OrderFile): string => new Date(at).toLocaleString('en-GB', { dateStyle: 'medium', timeStyle: 'short' });

function fateWords({ fate, run, problem, twinOf }: OrderFile): string {
  if (problem) return problem.message;
  switch (fate) {
    case 'left':
      return 'Left: it lay there when the order was made';
    case 'own':
      return 'Left: Rundle made it';
    case 'taken':
      return run ? 'Gathered and run' : 'Gathered';
    case 'twin':
      return `Not taken: the same picture as ${twinOf ?? 'another'}, byte for byte`;
    case 'refused':
      return 'It could not come in';
  }
}
