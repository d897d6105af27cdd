import { ChangeDetectionStrategy, Component, computed, inject, input, output, signal } from '@angular/core';
import { rxResource } from '@angular/core/rxjs-interop';
import { FormsModule } from '@angular/forms';
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
          <label for="deeper"><input type="checkbox" id="deeper" [(ngModel)]="deeper" /> with its sub-folders</label>
          <button nz-button nzSize="small" nzType="primary" type="button" (click)="chosen.emit({ path: here, deeper: deeper() })">
            {{ action() }}
          </button>
        }
        <button nz-button nzSize="small" nzType="text" type="button" aria-label="Close" (click)="closed.emit()">
          <nz-icon nzType="close" />
        </button>
      </p>
      <p class="soft">{{ hint() }}</p>
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
        } @else if (path()) {
          <li>
            <button type="button" (click)="go(null)"><nz-icon nzType="arrow-up" aria-hidden="true" /> all folders</button>
          </li>
        }
        @for (folder of folders(); track folder.path) {
          <li>
            <button type="button" (click)="go(folder.path)">{{ folder.name }}</button>
          </li>
        }
      </ul>
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
  readonly chosen = output<{ path: string; deeper: boolean }>();
  readonly closed = output();
  private readonly api = inject(Api);
  private readonly wanted = signal<string | null>(null);
  protected readonly deeper = signal(false);
  private readonly listing = rxResource({
    params: () => ({ path: this.wanted() }),
    stream: ({ params }) => this.api.listMachineFolder({ query: { path: params.path ?? undefined } }),
  });
  private readonly folder = computed(() => (this.listing.hasValue() ? this.listing.value() : null));
  protected readonly path = computed(() => this.folder()?.path ?? null);
  protected readonly up = computed(() => this.folder()?.up ?? null);
  protected readonly folders = computed(() => this.folder()?.folders ?? []);
  protected readonly files = computed(() => (this.path() ? counted(this.folder()?.files ?? 0, 'file') : ''));
  protected readonly problem = computed(() => {
    const error = this.listing.error();
    // The resource wraps what the call failed with.
    return error ? sentenceOf(error.cause ?? error) : null;
  });

  protected go(path: string | null): void {
    this.wanted.set(path);
  }
}
