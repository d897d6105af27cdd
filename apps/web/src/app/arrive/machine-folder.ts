import { ChangeDetectionStrategy, Component, computed, effect, inject, input, linkedSignal, output, signal } from '@angular/core';
import { rxResource } from '@angular/core/rxjs-interop';
import { FormsModule } from '@angular/forms';
import type { FolderUse } from '@rundle/core';
import { NzButtonModule } from 'ng-zorro-antd/button';
import { NzIconModule } from 'ng-zorro-antd/icon';
import { Api } from '../api/api';
import { sentenceOf } from '../api/problem-of';
import { counted } from '../look/figures';

/** Chooses a folder of the machine that runs Rundle. */
@Component({
  selector: 'rd-machine-folder',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [FormsModule, NzButtonModule, NzIconModule],
  template: `
    <section aria-label="A folder of this machine">
      <p class="head">
        <strong>{{ path() ?? 'Folders of the machine that runs Rundle' }}</strong>
        <span class="soft figures">{{ files() }}</span>
        <span class="space"></span>
        @if (path(); as here) {
          @if (use() === 'reading') {
            <label for="deeper"><input type="checkbox" id="deeper" [(ngModel)]="deeper" /> with its sub-folders</label>
          } @else {
            <span class="new">
              <input
                type="text"
                name="new-folder"
                aria-label="Name of a new folder"
                placeholder="New folder"
                maxlength="100"
                [ngModel]="newName()"
                [ngModelOptions]="{ standalone: true }"
                (ngModelChange)="newName.set($event)"
                (keydown.enter)="make($event)"
              />
              <button nz-button nzSize="small" type="button" [disabled]="!newName().trim()" (click)="make($event)">Make it</button>
            </span>
          }
          <button nz-button nzSize="small" nzType="primary" type="button" (click)="chosen.emit({ path: here, deeper: deeper() })">
            {{ action() }}
          </button>
        }
        <button nz-button nzSize="small" nzType="text" type="button" aria-label="Close" (click)="closed.emit()">
          <nz-icon nzType="close" />
        </button>
      </p>
      <p class="soft">{{ hint() }}</p>
      @if (refusal(); as sentence) {
        <p class="problem" role="alert">{{ sentence }}</p>
      }
      @if (problem(); as sentence) {
        <p class="problem">
          {{ sentence }} <button nz-button nzSize="small" type="button" (click)="go(null)">Back to the first folders</button>
        </p>
      }
      <ul>
        @if (up()) {
          <li>
            <button type="button" (click)="go(up())"><nz-icon nzType="arrow-up" aria-hidden="true" /> one up</button>
          </li>
        } @else if (path() && !hasOneRoot()) {
          <li>
            <button type="button" (click)="go(null)"><nz-icon nzType="arrow-up" aria-hidden="true" /> all folders</button>
          </li>
        }
        @for (folder of folders(); track folder.path) {
          <li>
            <button type="button" (click)="go(folder.path)">{{ folder.name }}</button>
          </li>
        } @empty {
          @if (use() === 'writing' && isRoot()) {
            <li class="soft">Rundle may write to no folder of its machine yet.</li>
          }
        }
      </ul>
      @if (use() === 'writing') {
        <p class="soft">
          These are the folders that Rundle may write to. For others, end it and start it again with their names, such as
          <code>RUNDLE_WRITE_ROOTS=/srv/delivery:/media/disk npm start</code>.
        </p>
      }
    </section>
  `,
  styles: `
    section {
      margin-bottom: 12px;
      padding: 10px 14px;
      background: var(--sheet);
      border: 1px solid var(--line-strong);
      border-radius: var(--radius);
    }
    .head {
      display: flex;
      align-items: center;
      gap: 12px;
      strong {
        overflow-wrap: anywhere;
      }
    }
    .space {
      flex: 1;
    }
    .problem {
      color: var(--brick);
    }
    .new {
      display: flex;
      gap: 6px;
      input {
        width: 150px;
        height: 24px;
        padding: 0 6px;
        font: inherit;
        font-size: 14px;
        background: var(--paper);
        border: 1px solid var(--line-strong);
        border-radius: var(--radius);
      }
    }
    code {
      font-size: 13px;
      overflow-wrap: anywhere;
    }
    ul {
      display: grid;
      grid-template-columns: repeat(auto-fill, minmax(220px, 1fr));
      gap: 2px 12px;
      max-height: 190px;
      margin: 8px 0 0;
      padding: 0;
      overflow-y: auto;
      list-style: none;
      button {
        width: 100%;
        padding: 3px 8px;
        overflow: hidden;
        text-align: left;
        text-overflow: ellipsis;
        white-space: nowrap;
        background: none;
        border: 0;
        border-radius: var(--radius);
        cursor: pointer;
        &:hover {
          background: var(--petrol-wash);
        }
      }
    }
  `,
})
export class MachineFolderChoice {
  /** What is done with the folder, on the button. */
  readonly action = input.required<string>();
  readonly hint = input.required<string>();
  readonly use = input<FolderUse>('reading');
  readonly chosen = output<{ path: string; deeper: boolean }>();
  readonly closed = output();
  private readonly api = inject(Api);
  private readonly wanted = signal<string | null>(null);
  protected readonly newName = signal('');
  /** Why a new folder was not made. */
  protected readonly refusal = linkedSignal<string | null, string | null>({ source: this.wanted, computation: () => null });
  protected readonly deeper = signal(false);
  private readonly listing = rxResource({
    params: () => ({ path: this.wanted(), use: this.use() }),
    stream: ({ params: { path, use } }) => this.api.listMachineFolder({ query: { path: path ?? undefined, use } }),
  });
  private readonly folder = computed(() => (this.listing.hasValue() ? this.listing.value() : null));
  protected readonly path = computed(() => this.folder()?.path ?? null);
  protected readonly up = computed(() => this.folder()?.up ?? null);
  protected readonly isRoot = computed(() => this.folder() !== null && this.path() === null);
  protected readonly folders = computed(() => this.folder()?.folders ?? []);
  protected readonly files = computed(() => (this.path() ? counted(this.folder()?.files ?? 0, 'file') : ''));
  protected readonly problem = computed(() => {
    const error = this.listing.error();
    // The resource wraps what the call failed with.
    return error ? sentenceOf(error.cause ?? error) : null;
  });

  /** There is one folder that files may go to at all: it is open at once. */
  protected readonly hasOneRoot = signal(false);

  constructor() {
    effect(() => {
      const [only, ...others] = this.folders();
      if (this.use() !== 'writing' || !this.isRoot() || !only || others.length) return;
      this.hasOneRoot.set(true);
      this.go(only.path);
    });
  }

  protected go(path: string | null): void {
    this.wanted.set(path);
  }

  /** Makes a folder in the one that is open, and opens it. */
  protected make(event: Event): void {
    // The form around it is not sent.
    event.preventDefault();
    const [path, name] = [this.path(), this.newName().trim()];
    if (!path || !name) return;
    this.api.makeMachineFolder({ body: { path, name } }).subscribe({
      next: ({ path: made }) => {
        this.newName.set('');
        this.go(made);
      },
      error: (error: unknown) => this.refusal.set(sentenceOf(error)),
    });
  }
}
