import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { RouterLink } from '@angular/router';
import { Store } from '@ngrx/store';
import { endSentence } from '@rundle/core';
import { NzButtonModule } from 'ng-zorro-antd/button';
import { NzIconModule } from 'ng-zorro-antd/icon';
import { NzSkeletonModule } from 'ng-zorro-antd/skeleton';
import { outputUrl, zipUrl } from '../api/api';
import { CountedPipe, WeightPipe } from '../look/figures';
import { Remarks } from '../look/remarks';
import { planFeature } from '../plan/plan.store';
import { presetsActions, presetsFeature } from '../presets/presets.store';
import { setFeature } from '../set/set.store';
import { handOverFeature } from './hand-over.store';

/** Hand over: what came out, before and after, and the ways out of the house. */
@Component({
  selector: 'rd-hand-over-page',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [RouterLink, NzButtonModule, NzIconModule, NzSkeletonModule, CountedPipe, WeightPipe, Remarks],
  templateUrl: './hand-over-page.html',
  styleUrl: './hand-over-page.less',
})
export class HandOverPage {
  private readonly store = inject(Store);
  protected readonly view = this.store.selectSignal(handOverFeature.selectView);
  protected readonly ready = this.store.selectSignal(handOverFeature.selectReady);
  protected readonly weights = this.store.selectSignal(handOverFeature.selectWeights);
  private readonly setId = this.store.selectSignal(setFeature.selectSetId);
  protected readonly zip = computed(() => zipUrl(this.setId() ?? ''));
  protected readonly link = outputUrl;

  private readonly presets = this.store.selectSignal(presetsFeature.selectList);

  constructor() {
    this.store.dispatch(presetsActions.wanted());
  }

  /** The version that a preset is at; null: it is gone, or not known yet. */
  protected versionNow(presetId: string): number | null {
    return this.presets().find(({ id }) => id === presetId)?.version ?? null;
  }

  private readonly progress = this.store.selectSignal(planFeature.selectProgress);
  /** How the last run ended, in the words of Plan. */
  protected readonly lastRun = computed(() => {
    const progress = this.progress();
    return progress && !progress.running ? endSentence(progress, progress.why) : null;
  });

  /** One group per folder, as in the ZIP. */
  protected readonly folders = computed(() => {
    const outputs = this.view()?.outputs ?? [];
    return [...new Set(outputs.map(({ folder }) => folder))].map((folder) => {
      const files = outputs.filter((output) => output.folder === folder);
      return { folder, files, bytes: files.reduce((sum, { bytes }) => sum + bytes, 0) };
    });
  });
}
