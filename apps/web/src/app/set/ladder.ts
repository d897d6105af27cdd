import { ChangeDetectionStrategy, Component, computed, inject, input } from '@angular/core';
import { RouterLink } from '@angular/router';
import { Store } from '@ngrx/store';
import { figure } from '@rundle/core';
import { handOverFeature } from '../hand-over/hand-over.store';
import { counted, weight } from '../look/figures';
import { planFeature, selectColumnIds, selectIsPlanned } from '../plan/plan.store';
import { boundFor } from '../shell/bound-for';
import { vetFeature } from '../vet/vet.store';
import { setFeature } from './set.store';

/** Stands where a figure is not known yet. */
const UNKNOWN = '…';

/** The way of a set: two rails and a rung for each step, each with its live figures, each open at any time. */
@Component({
  selector: 'rd-ladder',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [RouterLink],
  template: `
    <nav aria-label="Steps of the set" [class.folded]="isFolded()">
      @for (step of steps(); track step.path) {
        <a
          [routerLink]="['/sets', setId(), step.path]"
          [class.here]="here() === step.path"
          [attr.aria-current]="here() === step.path ? 'step' : null"
          [title]="step.figures"
        >
          <strong>{{ step.name }}</strong>
          <span class="figures" [class.quiet]="isFolded()">{{ step.figures }}</span>
        </a>
      }
    </nav>
  `,
  styles: `
    nav {
      display: grid;
      grid-auto-flow: column;
      grid-auto-columns: minmax(0, 1fr);
      max-width: 2344px;
      margin: 0 28px;
      padding: 0 14px; // the rails reach beyond the outer rungs
      border-block: 3px solid var(--petrol);
    }
    a {
      display: flex;
      align-items: center;
      gap: 12px;
      min-height: 39px;
      padding: 3px 16px 4px;
      color: var(--ink);
      border-right: 3px solid var(--petrol);
      &:first-child {
        border-left: 3px solid var(--petrol);
      }
      &:hover {
        background: var(--petrol-wash);
      }
      &.here {
        background: var(--petrol);
        color: var(--sheet);
        span {
          color: var(--petrol-wash);
        }
      }
      &:focus-visible {
        outline-offset: -5px;
        outline-color: currentcolor;
      }
    }
    strong {
      font-size: 16px;
      font-weight: 600;
      white-space: nowrap;
    }
    span {
      font-size: 14px;
      line-height: 16px;
      white-space: normal;
      color: var(--ink-soft);
    }
    .folded {
      grid-auto-columns: auto;
      a {
        position: relative;
        min-height: 31px;
        padding: 3px 14px 4px;
      }
      strong {
        font-size: 15px;
      }
    }
    @media (max-width: 1240px) {
      span {
        font-size: 13px;
        line-height: 15px;
      }
    }
  `,
})
export class Ladder {
  readonly setId = input.required<string>();
  /** Whether its figures are only told where a step is pointed at. */
  readonly isFolded = input(false);
  private readonly store = inject(Store);
  private readonly masters = this.store.selectSignal(setFeature.selectMasters);
  private readonly total = this.store.selectSignal(setFeature.selectTotal);
  private readonly isWhole = this.store.selectSignal(setFeature.selectIsWhole);
  private readonly arriving = this.store.selectSignal(setFeature.selectArriving);
  private readonly bytes = this.store.selectSignal(setFeature.selectBytes);
  private readonly progress = this.store.selectSignal(planFeature.selectProgress);
  private readonly plan = this.store.selectSignal(planFeature.selectTotals);
  private readonly chosen = this.store.selectSignal(selectColumnIds);
  private readonly groups = this.store.selectSignal(vetFeature.selectGroups);
  private readonly vetted = this.store.selectSignal(vetFeature.selectIsCurrent);
  private readonly refusal = this.store.selectSignal(planFeature.selectSentence);
  private readonly isPlanned = this.store.selectSignal(selectIsPlanned);
  private readonly runIsKnown = this.store.selectSignal(planFeature.selectRunIsKnown);
  private readonly outputs = this.store.selectSignal(handOverFeature.selectView);
  private readonly ready = this.store.selectSignal(handOverFeature.selectReady);

  private readonly address = boundFor();
  /** The step that is open, or that was just pressed. */
  protected readonly here = computed(() => this.address().split('/')[3]);

  private readonly set = this.store.selectSignal(setFeature.selectSet);
  private readonly due = computed(() => this.set()?.secondLooks.length ?? 0);

  protected readonly steps = computed(() => [
    { path: 'gather', name: 'Gather', figures: this.gatherFigures() },
    { path: 'vet', name: 'Vet', figures: this.vetFigures() },
    { path: 'plan', name: 'Plan', figures: this.planFigures() },
    { path: 'proof', name: 'Proof', figures: this.due() ? `${this.due()} to look at again` : 'at 1:1' },
    { path: 'hand-over', name: 'Hand over', figures: this.readyFigures() },
  ]);

  private gatherFigures(): string {
    const total = this.total();
    if (total === null) return UNKNOWN;
    if (total === 0) return 'no pictures yet';
    return this.isWhole() ? `${counted(total, 'picture')}, ${weight(this.bytes())}` : counted(total, 'picture');
  }

  private readyFigures(): string {
    const run = this.progress();
    // Under a run they become more from moment to moment, and are counted at its end.
    if (!this.outputs() || (run?.isOpen && run.past > 0)) return UNKNOWN;
    return this.ready() ? `${figure(this.ready())} ready` : 'nothing out yet';
  }

  private vetFigures(): string {
    if (!this.vetted() || !this.isWhole() || this.arriving()) return UNKNOWN;
    if (!this.masters().length) return '';
    const looks = this.groups().filter(({ severity }) => severity === 'look');
    const pictures = new Set(looks.flatMap((group) => group.pictures.map(({ masterId }) => masterId)));
    return pictures.size ? `${figure(pictures.size)} to look at` : 'nothing to look at';
  }

  private planFigures(): string {
    const progress = this.progress();
    if (progress?.isOpen) return progress.words;
    if (!this.set() || !this.runIsKnown()) return UNKNOWN;
    const chosen = this.chosen().length;
    if (chosen && (!this.isPlanned() || this.refusal() || !this.masters().length)) return counted(chosen, 'preset');
    const { files, bytes } = this.plan();
    if (chosen && files) return `${counted(chosen, 'preset')}, ${counted(files, 'output')}, about ${weight(bytes)}`;
    if (progress && chosen) {
      const { done, bytes } = progress.counts;
      return `${counted(done, 'output')}, ${weight(bytes)}${progress.failed ? `, ${progress.failed} failed` : ''}`;
    }
    return chosen ? `${counted(chosen, 'preset')}, nothing to make` : 'no preset chosen';
  }
}
