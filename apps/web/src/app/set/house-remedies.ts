import { ChangeDetectionStrategy, Component, computed, inject, input } from '@angular/core';
import { Store } from '@ngrx/store';
import { type FindingCode, houseRemedy, isHouseCode, onceWith, varied, variedInWords } from '@rundle/core';
import { NzButtonModule } from 'ng-zorro-antd/button';
import { presetsFeature } from '../presets/presets.store';
import { setActions, setFeature } from './set.store';
import { vetActions, vetFeature } from '../vet/vet.store';

/** One press for each rule of the set's receiver that presets break: the value that keeps it, for this set. */
@Component({
  selector: 'rd-house-remedies',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [NzButtonModule],
  template: `
    @for (remedy of remedies(); track remedy.code) {
      <button nz-button nzSize="small" type="button" [title]="remedy.of" (click)="keep(remedy.code)">{{ remedy.words }}</button>
    }
  `,
  styles: `
    :host {
      display: contents;
    }
  `,
})
export class HouseRemedies {
  /** Codes of findings; those that are none of a receiver's rules are passed over. */
  readonly codes = input.required<readonly string[]>();
  /** Presets that may be varied; none: those chosen for the set. */
  readonly presetIds = input<readonly string[] | null>(null);
  private readonly store = inject(Store);
  private readonly set = this.store.selectSignal(setFeature.selectSet);
  private readonly chosenIds = this.store.selectSignal(setFeature.selectPresetIds);
  private readonly presets = this.store.selectSignal(presetsFeature.selectList);
  private readonly allRules = this.store.selectSignal(vetFeature.selectHouseRules);
  private readonly rules = computed(() => this.allRules().find(({ id }) => id === this.set()?.houseRulesId)?.rules ?? null);

  protected readonly remedies = computed(() => {
    const [rules, set] = [this.rules(), this.set()];
    if (!rules || !set) return [];
    const ids = this.presetIds() ?? this.chosenIds();
    const presets = this.presets().filter(({ id }) => ids.includes(id));
    return [...new Set(this.codes())].filter(isHouseCode).flatMap((code) => {
      const values = presets.flatMap(({ id, preset }) => {
        const once = houseRemedy(code as FindingCode, rules, varied(preset, set.once[id]));
        return once ? [{ id, once, title: preset.title }] : [];
      });
      const [first] = values;
      if (!first) return [];
      const [value = ''] = variedInWords(first.once);
      const says = code === 'house-long' ? `at most ${value}` : value;
      const words = `${says[0]!.toUpperCase()}${says.slice(1)}, for ${rules.title}`;
      return [{ code, words, values, of: `In this set, of ${values.map(({ title }) => `“${title}”`).join(', ')}` }];
    });
  });

  constructor() {
    this.store.dispatch(vetActions.houseRulesWanted());
  }

  protected keep(code: string): void {
    const [set, remedy] = [this.set(), this.remedies().find((one) => one.code === code)];
    if (!set || !remedy) return;
    const changed = Object.fromEntries(remedy.values.map(({ id, once }) => [id, onceWith(set.once[id], once)]));
    this.store.dispatch(setActions.changedByHand({ setId: set.id, change: { once: { ...set.once, ...changed } } }));
  }
}
