import { ChangeDetectionStrategy, Component, model, output } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { FolderPath, type Place } from '@rundle/core';
import { ChooseFolder } from '../arrive/choose-folder';

/** A place as it is being chosen: what was written for another kind stays. */
export interface PlaceDraft {
  kind: Place['kind'];
  path: string;
  folder: string;
}

export const draftOf = (place: Place): PlaceDraft => ({
  kind: place.kind,
  path: place.kind === 'folder' ? place.path : '',
  folder: place.kind === 'masters' ? place.folder : '',
});

/** What has been chosen, or what is wrong with it. */
export function placeOf({ kind, path, folder }: PlaceDraft): Place | string {
  switch (kind) {
    case 'own':
      return { kind: 'own' };
    case 'folder': {
      const trimmed = path.trim().replace(/(?<=.)\/+$/, '');
      const whole = trimmed.startsWith('/') && !trimmed.split('/').includes('..');
      return whole
        ? { kind: 'folder', path: trimmed }
        : 'Folder: a full path on the machine that runs Rundle, such as /srv/delivery/harbour.';
    }
    case 'masters': {
      const parsed = FolderPath.safeParse(folder.trim());
      return parsed.success
        ? { kind: 'masters', folder: folder.trim() }
        : `Folder beside the masters: ${parsed.error.issues[0]?.message ?? 'another name'}.`;
    }
  }
}

/** Chooses where files go. */
@Component({
  selector: 'rd-place-fields',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [FormsModule, ChooseFolder],
  template: `
    <label>
      <input type="radio" name="kind" value="own" [ngModel]="draft().kind" (ngModelChange)="change({ kind: $event })" /> Into Rundle’s own
      folder for the set
    </label>
    <div class="row">
      <label>
        <input type="radio" name="kind" value="folder" [ngModel]="draft().kind" (ngModelChange)="change({ kind: $event })" /> Into a folder
        of this machine:
      </label>
      <input
        type="text"
        name="path"
        aria-label="Folder of this machine"
        placeholder="/srv/delivery/harbour"
        [title]="draft().path"
        [ngModel]="draft().path"
        (ngModelChange)="change({ path: $event })"
        (focus)="change({ kind: 'folder' })"
      />
      <rd-choose-folder hint="The folder that the files go to." (chosen)="choose($event)" />
    </div>
    <label>
      <input type="radio" name="kind" value="masters" [ngModel]="draft().kind" (ngModelChange)="change({ kind: $event })" /> To the masters,
      into a folder beside each called
      <input
        type="text"
        name="folder"
        aria-label="Folder beside the masters"
        placeholder="none: their own folder"
        [ngModel]="draft().folder"
        (ngModelChange)="change({ folder: $event })"
        (focus)="change({ kind: 'masters' })"
      />
    </label>
    <p class="soft">
      Each preset’s own folder comes below it. Outside Rundle’s own folder only files that were made here, and have not been touched since,
      are ever replaced.
    </p>
  `,
  styles: `
    :host {
      display: flex;
      flex-direction: column;
      gap: 8px;
    }
    .row {
      display: flex;
      flex-wrap: wrap;
      gap: 8px;
      align-items: center;
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
    p {
      margin: 0;
    }
  `,
})
export class PlaceFields {
  readonly draft = model.required<PlaceDraft>();
  /** A folder was chosen, not typed. */
  readonly decided = output();

  /** It was chosen in the chooser, where it is seen: nothing is left to say. */
  protected choose(path: string): void {
    this.change({ kind: 'folder', path });
    this.decided.emit();
  }

  protected change(part: Partial<PlaceDraft>): void {
    this.draft.update((draft) => ({ ...draft, ...part }));
  }
}
