import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { Store } from '@ngrx/store';
import { FolderPath, type Place } from '@rundle/core';
import { NzButtonModule } from 'ng-zorro-antd/button';
import { weight } from '../look/figures';
import { setActions, setFeature } from '../set/set.store';
import { planFeature } from './plan.store';

/** Where the files of the set go, as a sentence that opens into the choice. */
@Component({
  selector: 'rd-place-choice',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [FormsModule, NzButtonModule],
  template: `
    <p class="said">
      Files go
      <button type="button" class="value" [attr.aria-expanded]="open()" [disabled]="disabled()" (click)="toggle()">{{ words() }}</button>
      @if (room(); as left) {
        <span class="soft figures">{{ left }}</span>
      }
    </p>
    @if (problem(); as sentence) {
      <p class="problem">{{ sentence }}</p>
    }
    @if (open()) {
      <form aria-label="Where the files go" (ngSubmit)="save()">
        <label><input type="radio" name="kind" value="own" [(ngModel)]="kind" /> Into Rundle’s own folder for this set</label>
        <label>
          <input type="radio" name="kind" value="folder" [(ngModel)]="kind" /> Into a folder of this machine:
          <input
            type="text"
            name="path"
            class="long"
            aria-label="Folder of this machine"
            placeholder="/srv/delivery/harbour"
            [(ngModel)]="path"
            (focus)="kind.set('folder')"
          />
        </label>
        <label>
          <input type="radio" name="kind" value="masters" [(ngModel)]="kind" /> To the masters, into a folder beside each called
          <input
            type="text"
            name="folder"
            aria-label="Folder beside the masters"
            placeholder="none: their own folder"
            [(ngModel)]="folder"
            (focus)="kind.set('masters')"
          />
        </label>
        <p class="soft">
          Each preset’s own folder comes below it. Outside Rundle’s own folder only files that were made here, and have not been touched
          since, are ever replaced; which folders may be written to is set where Rundle is started (RUNDLE_WRITE_ROOTS).
        </p>
        @if (wrong(); as sentence) {
          <p class="problem" role="alert">{{ sentence }}</p>
        }
        <p>
          <button nz-button nzType="primary" nzSize="small" type="submit">Send them there</button>
          <button nz-button nzSize="small" type="button" (click)="open.set(false)">Leave it</button>
        </p>
      </form>
    }
  `,
  styles: `
    .said {
      display: flex;
      flex-wrap: wrap;
      gap: 2px 8px;
      align-items: baseline;
      margin-bottom: 8px;
    }
    .value {
      padding: 0 2px;
      font: inherit;
      font-weight: 600;
      color: var(--petrol);
      text-align: left;
      background: none;
      border: 0;
      border-bottom: 1px dotted currentcolor;
      cursor: pointer;
      overflow-wrap: anywhere;
      &:disabled {
        color: var(--ink);
        border-color: transparent;
        cursor: default;
      }
    }
    .problem {
      margin-bottom: 8px;
      color: var(--brick);
    }
    form {
      display: flex;
      flex-direction: column;
      gap: 8px;
      max-width: 780px;
      margin-bottom: 12px;
      padding: 12px 16px;
      background: var(--sheet);
      border: 1px solid var(--line);
      border-radius: var(--radius);
    }
    label {
      display: flex;
      flex-wrap: wrap;
      gap: 8px;
      align-items: center;
    }
    input[type='text'] {
      flex: 1;
      min-width: 200px;
      max-width: 420px;
      height: 30px;
      padding: 0 8px;
      font: inherit;
      background: var(--paper);
      border: 1px solid var(--line-strong);
      border-radius: var(--radius);
    }
    input[type='radio'] {
      accent-color: var(--petrol);
    }
    p button + button {
      margin-left: 8px;
    }
  `,
})
export class PlaceChoice {
  private readonly store = inject(Store);
  private readonly set = this.store.selectSignal(setFeature.selectSet);
  private readonly planPath = this.store.selectSignal(planFeature.selectPath);
  private readonly refusal = this.store.selectSignal(planFeature.selectPlaceProblem);
  private readonly freeBytes = this.store.selectSignal(planFeature.selectFreeBytes);
  private readonly progress = this.store.selectSignal(planFeature.selectProgress);
  protected readonly disabled = computed(() => this.progress()?.running ?? false);
  protected readonly open = signal(false);
  protected readonly kind = signal<Place['kind']>('own');
  protected readonly path = signal('');
  protected readonly folder = signal('');
  protected readonly wrong = signal<string | null>(null);

  private readonly place = computed(() => this.set()?.place ?? { kind: 'own' as const });
  protected readonly words = computed(() => {
    const place = this.place();
    switch (place.kind) {
      case 'own':
        return 'into Rundle’s own folder';
      case 'folder':
        return `to ${place.path}`;
      case 'masters':
        return place.folder ? `beside the masters, into “${place.folder}”` : 'into the folders of the masters';
    }
  });
  protected readonly problem = computed(() => this.refusal()?.message ?? null);
  protected readonly room = computed(() => {
    const free = this.freeBytes();
    return free === null || !this.planPath() ? '' : `${weight(free)} free`;
  });

  protected toggle(): void {
    const place = this.place();
    this.kind.set(place.kind);
    this.path.set(place.kind === 'folder' ? place.path : '');
    this.folder.set(place.kind === 'masters' ? place.folder : '');
    this.wrong.set(null);
    this.open.update((open) => !open);
  }

  protected save(): void {
    const place = this.wanted();
    if (typeof place === 'string') return this.wrong.set(place);
    const setId = this.set()?.id;
    if (setId) this.store.dispatch(setActions.changedByHand({ setId, change: { place } }));
    this.open.set(false);
  }

  /** What has been chosen, or what is wrong with it. */
  private wanted(): Place | string {
    switch (this.kind()) {
      case 'own':
        return { kind: 'own' };
      case 'folder': {
        const path = this.path()
          .trim()
          .replace(/(?<=.)\/+$/, '');
        const whole = path.startsWith('/') && !path.split('/').includes('..');
        return whole ? { kind: 'folder', path } : 'Folder: a whole path on the machine that runs Rundle, such as /srv/delivery/harbour.';
      }
      case 'masters': {
        const folder = this.folder().trim();
        const parsed = FolderPath.safeParse(folder);
        return parsed.success
          ? { kind: 'masters', folder }
          : `Folder beside the masters: ${parsed.error.issues[0]?.message ?? 'another name'}.`;
      }
    }
  }
}
