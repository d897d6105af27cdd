import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { NonNullableFormBuilder, ReactiveFormsModule } from '@angular/forms';
import { Store } from '@ngrx/store';
import { BackupPlan, type BackupsView, counted, weight } from '@rundle/core';
import { NzButtonModule } from 'ng-zorro-antd/button';
import { NzInputModule } from 'ng-zorro-antd/input';
import { type Observable, switchMap } from 'rxjs';
import { Api } from '../api/api';
import { sentenceOf } from '../api/problem-of';
import { ChooseFolder } from '../arrive/choose-folder';
import { listOf } from '../shell/list-of';
import { callFailed } from '../shell/problems';

const HOURS = Array.from({ length: 24 }, (_, hour) => hour);

/** Backups: where and when they are made by themselves, one now, and what came of the last ones. */
@Component({
  selector: 'rd-backup-plan',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [ReactiveFormsModule, NzButtonModule, NzInputModule, ChooseFolder],
  template: `
    <h2>Backup</h2>
    @if (view(); as now) {
      <p class="soft lead">
        The database and all files of the data folder, also while Rundle works; what earlier backups hold is not copied again. Earlier ones
        are thinned out: {{ now.rule }}. <code>npm run restore</code> brings one back.
      </p>
      <form [formGroup]="form" (ngSubmit)="save()">
        <label for="backup-folder">Folder</label>
        <div>
          <input nz-input id="backup-folder" formControlName="folder" autocomplete="off" placeholder="/mnt/second-disk/rundle" />
          <rd-choose-folder hint="The folder that backups are made in; best on another disk." (chosen)="take($event)" />
          <span class="soft hint">{{ folderHint() }}</span>
        </div>
        <label for="backup-hour">Every day at</label>
        <div>
          <select id="backup-hour" formControlName="hour">
            @for (hour of hours; track hour) {
              <option [ngValue]="hour">{{ hour < 10 ? '0' : '' }}{{ hour }}:00</option>
            }
          </select>
          <label class="on"><input type="checkbox" formControlName="isOn" /> by itself</label>
        </div>
        <label for="backup-key">Passwords sealed for</label>
        <div>
          <input
            nz-input
            id="backup-key"
            formControlName="sealKey"
            autocomplete="off"
            spellcheck="false"
            placeholder="nobody: they are left out"
          />
          <span class="soft hint">A public key of age (age1…). Whoever has its private key brings the passwords of receivers back.</span>
        </div>
        <span></span>
        <div class="buttons">
          <button nz-button nzType="primary" type="submit" [disabled]="form.pristine">Save</button>
          <button nz-button type="button" [disabled]="form.dirty || now.running || !now.plan.folder" (click)="make()">
            {{ now.running ? 'Being made …' : 'Make one now' }}
          </button>
          @if (wrong(); as words) {
            <span class="wrong" role="alert">{{ words }}</span>
          }
        </div>
      </form>
      @if (now.last.length) {
        <ol aria-label="The last backups">
          @for (one of told(); track one.at) {
            <li [class.wrong]="one.failed">
              <span class="figures soft">{{ one.at }}</span> <span class="figures">{{ one.words }}</span>
            </li>
          }
        </ol>
      }
    }
  `,
  styles: `
    :host {
      display: block;
      margin-top: 32px;
    }
    .lead {
      max-width: 760px;
      margin-bottom: 14px;
    }
    form {
      display: grid;
      grid-template-columns: 160px minmax(0, 460px);
      gap: 12px 20px;
      align-items: start;
    }
    form > label {
      line-height: 32px;
      text-align: right;
    }
    .hint {
      font-size: 13px;
    }
    select {
      height: 32px;
      padding: 0 8px;
      background: var(--sheet);
      border: 1px solid var(--line-strong);
    }
    .on {
      margin-left: 16px;
    }
    .buttons {
      display: flex;
      gap: 12px;
      align-items: center;
    }
    .wrong {
      color: var(--brick);
    }
    ol {
      max-width: 760px;
      margin: 18px 0 0 180px;
      padding: 0;
      list-style: none;
    }
    li {
      display: grid;
      grid-template-columns: 110px 1fr;
      padding: 4px 0;
      border-bottom: 1px solid var(--line);
    }
  `,
})
export class BackupPlanForm {
  private readonly api = inject(Api);
  private readonly store = inject(Store);
  protected readonly hours = HOURS;
  protected readonly view = signal<BackupsView | null>(null);
  protected readonly wrong = signal<string | null>(null);
  protected readonly form = inject(NonNullableFormBuilder).group({ folder: '', hour: 3, isOn: false, sealKey: '' });
  protected readonly folderHint = computed(() => {
    const folders = this.view()?.folders ?? [];
    return folders.length
      ? `Below ${folders.join(' or ')}; best on another disk.`
      : 'Rundle may write to no folder of this machine yet: name some where it is started (RUNDLE_WRITE_ROOTS).';
  });
  protected readonly told = computed(() =>
    (this.view()?.last ?? []).map(({ begunAt, done, problem }) => ({
      at: new Date(begunAt).toLocaleString('en-GB', { day: 'numeric', month: 'short', hour: '2-digit', minute: '2-digit' }),
      failed: problem !== null,
      words: done ? wordsOf(done) : `Not made: ${problem}`,
    })),
  );

  protected take(path: string): void {
    this.form.controls.folder.setValue(path);
    this.form.controls.folder.markAsDirty();
  }

  constructor() {
    listOf('backups')
      .pipe(switchMap(() => this.api.getBackups()))
      .subscribe({
        next: (view) => this.show(view),
        error: (error: unknown) => this.tell('What is known of backups could not be loaded', error),
      });
  }

  protected save(): void {
    const { folder, hour, isOn, sealKey } = this.form.getRawValue();
    const plan = BackupPlan.safeParse({ isOn, folder: folder.trim() || null, hour, sealKey: sealKey.trim() || null });
    if (!plan.success) {
      const [issue] = plan.error.issues;
      this.wrong.set(`${issue?.path[0] === 'sealKey' ? 'Passwords sealed for' : 'Folder'}: ${issue?.message}.`);
      return;
    }
    this.call(this.api.changeBackupPlan({ body: plan.data }), 'The plan for backups was not saved', () => this.form.markAsPristine());
  }

  protected make(): void {
    this.call(this.api.makeBackup(), 'No backup is made');
  }

  private call(answer: Observable<BackupsView>, what: string, then = () => {}): void {
    this.wrong.set(null);
    answer.subscribe({
      next: (view) => {
        then();
        this.show(view);
      },
      error: (error: unknown) => this.tell(what, error),
    });
  }

  /** What is being typed stays. */
  private show(view: BackupsView): void {
    this.view.set(view);
    const { folder, hour, isOn, sealKey } = view.plan;
    if (this.form.pristine) this.form.reset({ folder: folder ?? '', hour, isOn, sealKey: sealKey ?? '' });
  }

  private tell(what: string, error: unknown): void {
    this.store.dispatch(callFailed({ what, sentence: sentenceOf(error) }));
  }
}

function wordsOf({ files, bytes, newBytes, thinned, notIn }: NonNullable<BackupsView['last'][number]['done']>): string {
  return [
    `${counted(files, 'file')} and the database, ${weight(bytes)}, of which ${weight(newBytes)} new`,
    ...(thinned ? [`${counted(thinned, 'earlier one', 'earlier ones')} thinned out`] : []),
    ...(notIn.masters ? [`not in it: ${counted(notIn.masters, 'picture')} on the machine`] : []),
    ...(notIn.outputs ? [`not in it: ${counted(notIn.outputs, 'file')} outside the data folder`] : []),
  ].join('; ');
}
