import { ChangeDetectionStrategy, Component, computed, inject, input, type OnInit, output, signal } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { Store } from '@ngrx/store';
import { presetInShort, type StandingOrder } from '@rundle/core';
import { NzButtonModule } from 'ng-zorro-antd/button';
import { Api } from '../api/api';
import { sentenceOf } from '../api/problem-of';
import { MachineFolderChoice } from '../arrive/machine-folder';
import { draftOf, PlaceFields, placeOf } from '../plan/place-fields';
import { presetsActions, presetsFeature } from '../presets/presets.store';

/** Writes a standing order down, or changes one: its folder is for good. */
@Component({
  selector: 'rd-order-form',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [FormsModule, NzButtonModule, MachineFolderChoice, PlaceFields],
  templateUrl: './order-form.html',
  styleUrl: './order-form.less',
})
export class OrderForm implements OnInit {
  /** The one that is changed; null: a new one. */
  readonly order = input<StandingOrder | null>(null);
  readonly closed = output();
  private readonly api = inject(Api);
  private readonly presets = inject(Store).selectSignal(presetsFeature.selectList);
  protected readonly title = signal('');
  protected readonly folder = signal<string | null>(null);
  protected readonly deeper = signal(false);
  protected readonly presetIds = signal<readonly string[]>([]);
  protected readonly place = signal(draftOf({ kind: 'own' }));
  protected readonly takeExisting = signal(false);
  protected readonly choosing = signal(false);
  protected readonly saving = signal(false);
  protected readonly wrong = signal<string | null>(null);
  protected readonly offers = computed(() =>
    this.presets().map(({ id, preset }) => ({
      id,
      title: preset.title,
      short: presetInShort(preset),
      chosen: this.presetIds().includes(id),
    })),
  );

  constructor() {
    inject(Store).dispatch(presetsActions.wanted());
  }

  ngOnInit(): void {
    const order = this.order();
    this.choosing.set(order === null);
    if (!order) return;
    this.title.set(order.title);
    this.folder.set(order.folder);
    this.deeper.set(order.deeper);
    this.presetIds.set(order.presetIds);
    this.place.set(draftOf(order.place));
  }

  protected choose({ path, deeper }: { path: string; deeper: boolean }): void {
    this.folder.set(path);
    this.deeper.set(deeper);
    this.choosing.set(false);
    if (!this.title().trim()) this.title.set(path.split('/').findLast(Boolean) ?? '');
  }

  protected toggle(id: string): void {
    this.presetIds.update((ids) => (ids.includes(id) ? ids.filter((one) => one !== id) : [...ids, id]));
  }

  protected save(): void {
    const place = placeOf(this.place());
    const folder = this.folder();
    const title = this.title().trim();
    // A preset that has been deleted since cannot be seen here, and so not be taken out either.
    const presetIds = this.presetIds().filter((id) => this.presets().some((preset) => preset.id === id));
    if (folder === null) return this.wrong.set('Choose the folder that is to be watched.');
    if (!title) return this.wrong.set('Title: write down what the order is for.');
    if (presetIds.length === 0) return this.wrong.set('Choose at least one preset.');
    if (typeof place === 'string') return this.wrong.set(place);
    const order = this.order();
    const common = { title, presetIds, place };
    this.saving.set(true);
    this.wrong.set(null);
    const call = order
      ? this.api.changeStandingOrder({ orderId: order.id, body: common })
      : this.api.createStandingOrder({ body: { ...common, folder, deeper: this.deeper(), takeExisting: this.takeExisting() } });
    call.subscribe({
      next: () => this.closed.emit(),
      error: (error: unknown) => {
        this.saving.set(false);
        this.wrong.set(sentenceOf(error));
      },
    });
  }
}
