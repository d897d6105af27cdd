import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { takeUntilDestroyed } from '@angular/core/rxjs-interop';
import { Actions, ofType } from '@ngrx/effects';
import { Store } from '@ngrx/store';
import { counted, type RemovedOutputs, weight } from '@rundle/core';
import { NzButtonModule } from 'ng-zorro-antd/button';
import { catchError, EMPTY, filter, type Observable, Subject, switchMap } from 'rxjs';
import { Api } from '../api/api';
import { sentenceOf } from '../api/problem-of';
import { setActions, setFeature } from '../set/set.store';
import { callFailed } from '../shell/problems';

/** After pictures were taken out: what lies on the disk of them, and a way to take it away. */
@Component({
  selector: 'rd-removed-files',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [NzButtonModule],
  host: { role: 'status' },
  template: `
    @if (words(); as told) {
      <p class="figures">
        {{ told }}
        <button nz-button nzType="link" nzSize="small" [disabled]="busy()" (click)="takeAway()">Take them away</button>
        <button nz-button nzType="link" nzSize="small" (click)="found.set(null)">Leave them</button>
      </p>
    }
  `,
  styles: `
    p {
      margin: 4px 0 8px;
      padding: 6px 14px;
      font-size: 13px;
      background: var(--petrol-wash);
      border-left: 4px solid var(--petrol);
    }
  `,
})
export class RemovedFiles {
  private readonly store = inject(Store);
  private readonly api = inject(Api);
  private readonly setId = this.store.selectSignal(setFeature.selectSetId);
  protected readonly found = signal<RemovedOutputs | null>(null);
  protected readonly busy = signal(false);
  private readonly pressed = new Subject<void>();
  protected readonly words = computed(() => {
    const found = this.found();
    if (!found?.files) return null;
    const { files, pictures, bytes, examples } = found;
    const of = pictures === 1 ? 'a picture that was' : 'pictures that were';
    const such = files === 1 ? `: ${examples[0]}` : `, such as ${examples[0]}`;
    return `${counted(files, 'file')} of ${of} taken out of the set ${files === 1 ? 'lies' : 'lie'} where ${files === 1 ? 'it was' : 'they were'} made${such}; ${weight(bytes)}.`;
  });

  constructor() {
    inject(Actions)
      .pipe(
        ofType(setActions.eventCame),
        filter(({ event }) => event.type === 'masters-removed' || (this.found() !== null && event.type === 'masters')),
        switchMap(() => this.answer((setId) => this.api.getRemovedOutputs({ setId }))),
        takeUntilDestroyed(),
      )
      .subscribe((found) => this.found.set(found));
    this.pressed
      .pipe(
        switchMap(() => this.answer((setId) => this.api.takeAwayRemovedOutputs({ setId }))),
        takeUntilDestroyed(),
      )
      .subscribe(() => {
        this.busy.set(false);
        this.found.set(null);
      });
  }

  protected takeAway(): void {
    this.busy.set(true);
    this.pressed.next();
  }

  private answer(call: (setId: string) => Observable<RemovedOutputs>): Observable<RemovedOutputs> {
    return call(this.setId() ?? '').pipe(
      catchError((error: unknown) => {
        this.busy.set(false);
        this.store.dispatch(callFailed({ what: 'The files of removed pictures', sentence: sentenceOf(error) }));
        return EMPTY;
      }),
    );
  }
}
