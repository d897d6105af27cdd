import { ChangeDetectionStrategy, Component, inject, signal } from '@angular/core';
import { Store } from '@ngrx/store';
import { fileNameOf, studioFile, type StudioDetails } from '@rundle/core';
import { NzButtonModule } from 'ng-zorro-antd/button';
import { switchMap } from 'rxjs';
import { Api } from '../api/api';
import { sentenceOf } from '../api/problem-of';
import { listOf } from '../shell/list-of';
import { callFailed } from '../shell/problems';
import { saveFile } from '../library/save-file';
import { AsInFile } from './as-in-file';
import { BackupPlanForm } from './backup-plan';
import { HouseRulesList } from './house-rules';
import { RightsForm } from './rights-form';

/** Studio: the details that fill what a master leaves open. No other feature needs their state. */
@Component({
  selector: 'rd-studio-page',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [BackupPlanForm, HouseRulesList, NzButtonModule, RightsForm, AsInFile],
  template: `
    <div class="page">
      <h1>Studio</h1>
      <p class="soft lead">
        These details fill rights fields that a master leaves empty, in presets that say so. What a file says already is never overwritten,
        and a set may have details of its own: they are on its Plan page.
      </p>
      <div class="halves">
        <rd-rights-form [details]="details()" (saved)="save($event)">
          @if (saved()) {
            <span class="soft" role="status"> Saved.</span>
          }
        </rd-rights-form>
        <div>
          <rd-as-in-file [details]="details()" />
          <button nz-button [disabled]="!details()" (click)="export()">Export for the command line</button>
        </div>
      </div>
      <rd-house-rules />
      <rd-backup-plan />
    </div>
  `,
  styles: `
    .lead {
      max-width: 640px;
      margin: 4px 0 22px;
    }
    .halves {
      display: grid;
      grid-template-columns: minmax(0, 640px) minmax(360px, 1fr);
      gap: 56px;
      margin-bottom: 36px;
    }
    @media (max-width: 1100px) {
      .halves {
        grid-template-columns: minmax(0, 700px);
      }
    }
  `,
})
export class StudioPage {
  private readonly api = inject(Api);
  private readonly store = inject(Store);
  protected readonly details = signal<StudioDetails | null>(null);
  protected readonly saved = signal(false);

  constructor() {
    listOf('studio')
      .pipe(switchMap(() => this.api.getStudio()))
      .subscribe({
        next: (details) => this.details.set(details),
        error: (error: unknown) => this.tell('The studio’s details could not be loaded', error),
      });
  }

  protected save(details: StudioDetails): void {
    this.api.changeStudio({ body: details }).subscribe({
      next: (kept) => {
        this.details.set(kept);
        this.saved.set(true);
      },
      error: (error: unknown) => this.tell('The studio’s details were not saved', error),
    });
  }

  protected export(): void {
    const details = this.details();
    if (details) saveFile(fileNameOf(details.creator || 'studio', 'studio'), studioFile(details));
  }

  private tell(what: string, error: unknown): void {
    this.store.dispatch(callFailed({ what, sentence: sentenceOf(error) }));
  }
}
