import { ChangeDetectionStrategy, Component, computed, inject, input } from '@angular/core';
import { isOfAllParts, Once, onceWith, type TileValues, variedPart } from '@rundle/core';
import { NzButtonModule } from 'ng-zorro-antd/button';
import { VaryPreset } from '../set/vary-preset';
import { ProofChoice } from './proof-choice';

/** Makes values that were judged those of the preset: for the set, or in its next version. */
@Component({
  selector: 'rd-adopt-bar',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [NzButtonModule],
  template: `
    <button
      nz-button
      nzSize="small"
      nzType="primary"
      type="button"
      [disabled]="!isReady() || !canVary()"
      [attr.title]="canVary() ? null : 'A size that has its own value is changed in the preset'"
      (click)="useOnce()"
    >
      Use this for this set
    </button>
    <button nz-button nzSize="small" type="button" [disabled]="!isReady()" (click)="useForGood()">
      Save as version {{ (choice.stored()?.version ?? 0) + 1 }}
    </button>
  `,
  styles: `
    :host {
      display: flex;
      gap: 8px;
      align-items: center;
    }
  `,
})
export class AdoptBar {
  readonly values = input.required<TileValues | Once>();
  /** The values in words. */
  readonly says = input.required<string>();
  /** Whether what is adopted is what is seen; nothing is adopted unseen. */
  readonly isReady = input(true);
  protected readonly choice = inject(ProofChoice);
  protected readonly canVary = computed(() => {
    const stored = this.choice.stored();
    return stored !== null && isOfAllParts(stored.preset, this.choice.part(), Once.parse(this.values()));
  });
  private readonly vary = inject(VaryPreset);

  protected useOnce(): void {
    const [set, stored] = [this.choice.set(), this.choice.stored()];
    if (!set || !stored) return;
    this.vary.once(set, stored.id, onceWith(this.choice.once(), Once.parse(this.values())));
    this.choice.said.set(`${this.says()}: for this set, until it is cleared in Plan.`);
  }

  protected useForGood(): void {
    const [set, stored, values] = [this.choice.set(), this.choice.stored(), Once.parse(this.values())];
    if (!set || !stored) return;
    this.vary.save(stored, variedPart(stored.preset, this.choice.part(), values)).subscribe(() => {
      // What is the preset's own now is no variation any more.
      const gone = [...Object.keys(values), ...('match' in values ? ['quality'] : []), ...('quality' in values ? ['match'] : [])];
      const rest = Object.fromEntries(Object.entries(this.choice.once() ?? {}).filter(([id]) => !gone.includes(id)));
      this.vary.once(set, stored.id, Once.parse(rest));
      this.choice.said.set(`${this.says()}: saved as version ${stored.version + 1} of “${stored.preset.title}”.`);
    });
  }
}
