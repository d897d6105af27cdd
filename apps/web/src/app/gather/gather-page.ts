import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { Store } from '@ngrx/store';
import { NzButtonModule } from 'ng-zorro-antd/button';
import { NzIconModule } from 'ng-zorro-antd/icon';
import { NzPopconfirmModule } from 'ng-zorro-antd/popconfirm';
import { NzProgressModule } from 'ng-zorro-antd/progress';
import { NzSkeletonModule } from 'ng-zorro-antd/skeleton';
import { CountedPipe, WeightPipe } from '../look/figures';
import { setActions, setFeature } from '../set/set.store';
import { MasterCard } from './master-card';

/** Gather: the pictures of the set on a contact sheet, in set order. */
@Component({
  selector: 'rd-gather-page',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [NzButtonModule, NzIconModule, NzPopconfirmModule, NzProgressModule, NzSkeletonModule, CountedPipe, WeightPipe, MasterCard],
  templateUrl: './gather-page.html',
  styleUrl: './gather-page.less',
})
export class GatherPage {
  private readonly store = inject(Store);
  protected readonly set = this.store.selectSignal(setFeature.selectSet);
  protected readonly masters = this.store.selectSignal(setFeature.selectMasters);
  protected readonly bytes = this.store.selectSignal(setFeature.selectBytes);
  protected readonly selected = this.store.selectSignal(setFeature.selectSelected);
  protected readonly selectedBytes = this.store.selectSignal(setFeature.selectSelectedBytes);
  protected readonly uploads = this.store.selectSignal(setFeature.selectUploads);
  protected readonly refused = this.store.selectSignal(setFeature.selectRefused);
  protected readonly arriving = computed(() => this.masters().filter(({ state }) => state === 'arriving').length);
  private readonly selection = computed(() => new Set(this.selected()));

  protected isSelected(id: string): boolean {
    return this.selection().has(id);
  }

  protected click(masterId: string, range: boolean): void {
    this.store.dispatch(setActions.pictureClicked({ masterId, range }));
  }

  protected selectAll(): void {
    this.store.dispatch(setActions.selectionMade({ masterIds: this.masters().map(({ id }) => id) }));
  }

  protected selectNone(): void {
    this.store.dispatch(setActions.selectionMade({ masterIds: [] }));
  }

  protected takeOut(): void {
    const setId = this.set()?.id;
    if (setId) this.store.dispatch(setActions.removalAskedFor({ setId, masterIds: this.selected() }));
  }

  protected chosen(event: Event): void {
    const field = event.target as HTMLInputElement;
    const setId = this.set()?.id;
    const files = [...(field.files ?? [])];
    if (setId && files.length) this.store.dispatch(setActions.filesDropped({ setId, files }));
    field.value = ''; // so that the same file can be chosen again
  }

  protected putAway(): void {
    this.store.dispatch(setActions.refusalsPutAway());
  }
}
