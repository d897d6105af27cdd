import { ChangeDetectionStrategy, Component, inject, signal } from '@angular/core';
import { Store } from '@ngrx/store';
import type { NewWatermark, StoredWatermark } from '@rundle/core';
import { NzButtonModule } from 'ng-zorro-antd/button';
import { NzInputModule } from 'ng-zorro-antd/input';
import { NzPopconfirmModule } from 'ng-zorro-antd/popconfirm';
import { switchMap } from 'rxjs';
import { Api } from '../api/api';
import { sentenceOf } from '../api/problem-of';
import { listOf } from '../shell/list-of';
import { callFailed } from '../shell/problems';

/** The heaviest logo that is taken, in bytes. */
const HEAVIEST = 1_000_000;

/** Watermarks of the studio: lines of text and logos, which presets may then name. */
@Component({
  selector: 'rd-watermarks',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [NzButtonModule, NzInputModule, NzPopconfirmModule],
  template: `
    <h2>Watermarks</h2>
    <p class="soft lead">A preset names one of these on its Mark rung, with its place, size and opacity.</p>
    <ul>
      @for (mark of list(); track mark.id) {
        <li>
          <span class="sample" [style.color]="mark.colour">{{ mark.text ?? mark.kind.toUpperCase() }}</span>
          <span class="title">{{ mark.kind === 'text' ? '' : mark.title }}</span>
          @if (mark.state === 'checking') {
            <span class="soft" role="status">being checked …</span>
          } @else if (mark.state === 'refused') {
            <span class="refused" role="alert">{{ mark.problem?.message }}</span>
          }
          <button
            nz-button
            nzType="text"
            nz-popconfirm
            nzPopconfirmTitle="Delete this watermark? Pictures that carry it stay as they are."
            nzOkText="Delete"
            nzCancelText="Keep"
            [attr.aria-label]="'Delete ' + mark.title"
            (nzOnConfirm)="remove(mark)"
          >
            Delete
          </button>
        </li>
      } @empty {
        <li class="soft">None yet.</li>
      }
    </ul>
    <div class="add">
      <input
        #words
        nz-input
        maxlength="120"
        placeholder="A line of text"
        aria-label="Text of a new watermark"
        (keydown.enter)="addText(words, colour.value)"
      />
      <label class="colour">Colour <input #colour type="color" value="#ffffff" aria-label="Colour of the text" /></label>
      <button nz-button (click)="addText(words, colour.value)">Add text</button>
      <button nz-button (click)="file.click()">Add a logo …</button>
      <input #file type="file" accept=".png,.svg" hidden (change)="addLogo(file)" />
    </div>
    @if (refused()) {
      <p class="refused" role="alert">{{ refused() }}</p>
    }
  `,
  styles: `
    :host {
      display: block;
      min-width: 0;
    }
    .lead {
      margin: 2px 0 14px;
    }
    ul {
      padding: 0;
      margin: 0 0 16px;
      list-style: none;
    }
    li {
      display: flex;
      gap: 14px;
      align-items: center;
      min-height: 44px;
      border-bottom: 1px solid var(--line);
    }
    .sample {
      display: inline-block;
      min-width: 56px;
      max-width: 240px;
      padding: 3px 12px;
      overflow: hidden;
      font-weight: 600;
      color: #fff;
      text-align: center;
      text-overflow: ellipsis;
      white-space: nowrap;
      background: #55606a;
      border-radius: 3px;
    }
    .title {
      flex: 1;
      min-width: 0;
      overflow: hidden;
      text-overflow: ellipsis;
      white-space: nowrap;
    }
    .refused {
      flex: 3;
      font-size: 14px;
      line-height: 1.35;
      color: var(--brick);
    }
    .add {
      display: flex;
      flex-wrap: wrap;
      gap: 10px;
      align-items: center;
    }
    .add input[nz-input] {
      flex: 1 1 200px;
      width: auto;
    }
    .colour {
      display: flex;
      gap: 6px;
      align-items: center;
      margin-right: 6px;
    }
    input[type='color'] {
      width: 34px;
      height: 30px;
      padding: 2px;
      background: none;
      border: 1px solid var(--line);
      border-radius: 4px;
    }
  `,
})
export class Watermarks {
  private readonly api = inject(Api);
  private readonly store = inject(Store);
  protected readonly list = signal<readonly StoredWatermark[]>([]);
  /** Why the last logo was not even sent. */
  protected readonly refused = signal<string | null>(null);

  constructor() {
    listOf('watermarks')
      .pipe(switchMap(() => this.api.listWatermarks()))
      .subscribe({
        next: (list) => this.list.set(list),
        error: (error: unknown) => this.tell('The watermarks could not be loaded', error),
      });
  }

  protected addText(field: HTMLInputElement, colour: string): void {
    const text = field.value.trim();
    if (!text) return field.focus();
    this.add({ kind: 'text', title: text, text, colour });
    field.value = '';
  }

  protected addLogo(field: HTMLInputElement): void {
    const file = field.files?.[0];
    field.value = '';
    if (!file) return;
    const kind = file.name.toLowerCase().endsWith('.svg') ? 'svg' : 'png';
    if (file.size > HEAVIEST) return this.refused.set(`${file.name} is heavier than 1 MB. Export it smaller.`);
    this.refused.set(null);
    const reader = new FileReader();
    reader.onload = () => this.add({ kind, title: file.name.slice(0, 120), data: (reader.result as string).replace(/^[^,]*,/, '') });
    reader.readAsDataURL(file);
  }

  protected remove({ id }: StoredWatermark): void {
    this.api.deleteWatermark({ watermarkId: id }).subscribe({
      error: (error: unknown) => this.tell('The watermark was not deleted', error),
    });
  }

  private add(watermark: NewWatermark): void {
    this.api.createWatermark({ body: watermark }).subscribe({
      error: (error: unknown) => this.tell('The watermark was not added', error),
    });
  }

  private tell(what: string, error: unknown): void {
    this.store.dispatch(callFailed({ what, sentence: sentenceOf(error) }));
  }
}
