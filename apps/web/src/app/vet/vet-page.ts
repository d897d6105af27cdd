import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { Router } from '@angular/router';
import { Store } from '@ngrx/store';
import { ALL_PICTURES, type Master, type VetGroup } from '@rundle/core';
import { NzButtonModule } from 'ng-zorro-antd/button';
import { NzIconModule } from 'ng-zorro-antd/icon';
import { NzSelectModule } from 'ng-zorro-antd/select';
import { NzSkeletonModule } from 'ng-zorro-antd/skeleton';
import { thumbnailUrl } from '../api/api';
import { counted } from '../look/figures';
import { HouseRemedies } from '../set/house-remedies';
import { presetsActions, presetsFeature } from '../presets/presets.store';
import { setActions, setFeature } from '../set/set.store';
import { remedyEdit, remedyLabel } from './remedies';
import { SetChart } from './set-chart';
import { vetActions, vetFeature } from './vet.store';

/** Pictures of a group that are shown before "and more". */
const SHOWN = 12;

/** Vet: what would go wrong, grouped by kind, worst first, with what can be done about it. */
@Component({
  selector: 'rd-vet-page',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [FormsModule, NzButtonModule, NzIconModule, NzSelectModule, NzSkeletonModule, HouseRemedies, SetChart],
  templateUrl: './vet-page.html',
  styleUrl: './vet-page.less',
})
export class VetPage {
  private readonly store = inject(Store);
  private readonly router = inject(Router);
  protected readonly set = this.store.selectSignal(setFeature.selectSet);
  protected readonly masters = this.store.selectSignal(setFeature.selectMasters);
  protected readonly isWhole = this.store.selectSignal(setFeature.selectIsWhole);
  protected readonly arriving = this.store.selectSignal(setFeature.selectArriving);
  protected readonly isCurrent = this.store.selectSignal(vetFeature.selectIsCurrent);
  protected readonly vetted = this.store.selectSignal(vetFeature.selectVetted);
  protected readonly houseRules = this.store.selectSignal(vetFeature.selectHouseRules);
  private readonly groups = this.store.selectSignal(vetFeature.selectGroups);
  private readonly presets = this.store.selectSignal(presetsFeature.selectList);
  private readonly presetIds = this.store.selectSignal(setFeature.selectPresetIds);
  private readonly undos = this.store.selectSignal(setFeature.selectUndo);
  protected readonly undo = computed(() => this.undos().at(-1)?.label ?? null);
  protected readonly against = computed(() => {
    const titles = this.presets().flatMap(({ id, preset }) => (this.presetIds().includes(id) ? [preset.title] : []));
    return titles.length ? titles.join(', ') : null;
  });
  private readonly byId = computed(() => new Map(this.masters().map((master) => [master.id, master])));
  protected readonly shown = computed(() =>
    this.groups().map((group) => ({
      ...group,
      count: counted(group.pictures.length, 'picture'),
      button: group.remedy && remedyLabel(group.remedy, group.pictures.length),
      first: group.pictures.slice(0, SHOWN).flatMap(({ masterId, message }) => {
        const master = this.byId().get(masterId);
        return master ? [{ master, message }] : [];
      }),
      more: Math.max(0, group.pictures.length - SHOWN),
    })),
  );
  protected readonly looks = computed(() => this.shown().filter(({ severity }) => severity === 'look'));
  protected readonly notes = computed(() => this.shown().filter(({ severity }) => severity === 'note'));
  protected readonly leftOut = computed(() => this.masters().filter(({ choice }) => choice === 'out').length);
  protected readonly thumbnail = thumbnailUrl;

  constructor() {
    this.store.dispatch(presetsActions.wanted());
    this.store.dispatch(vetActions.houseRulesWanted());
    this.store.dispatch(vetActions.wanted());
  }

  protected mend({ remedy, pictures }: VetGroup): void {
    if (!remedy) return;
    if (remedy.kind === 'name-studio') return void this.router.navigate(['/studio']);
    if (remedy.kind === 'read-again')
      return this.store.dispatch(vetActions.readAgainPressed({ masterIds: pictures.map(({ masterId }) => masterId) }));
    const ids = new Set(pictures.map(({ masterId }) => masterId));
    this.store.dispatch(setActions.edited({ edit: remedyEdit(remedy, this.masters(), ids) }));
  }

  protected undoLast(): void {
    this.store.dispatch(setActions.undoPressed());
  }

  /** Goes to Gather with only some pictures shown. */
  protected show(masterIds: string[]): void {
    const setId = this.set()?.id;
    if (!setId) return;
    this.store.dispatch(setActions.changedByHand({ setId, change: { filter: { ...ALL_PICTURES, ids: masterIds } } }));
    void this.router.navigate(['/sets', setId, 'gather']);
  }

  protected showGroup({ pictures }: VetGroup): void {
    this.show(pictures.map(({ masterId }) => masterId));
  }

  protected chooseHouse(id: string): void {
    const setId = this.set()?.id;
    if (setId) this.store.dispatch(setActions.changedByHand({ setId, change: { houseRulesId: id || null } }));
  }

  protected isReady({ state }: Master): boolean {
    return state === 'ready';
  }
}
