import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { RouterLink } from '@angular/router';
import { counted, weight } from '@rundle/core';
import { NzButtonModule } from 'ng-zorro-antd/button';
import { CountedPipe } from '../look/figures';
import { type OpenedSet, TravellingSet } from './travelling-set';

/** A whole set from elsewhere is taken in: said beforehand what it holds, then with its masters or without. */
@Component({
  selector: 'rd-take-set-in',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [RouterLink, NzButtonModule, CountedPipe],
  providers: [TravellingSet],
  template: `
    <button nz-button type="button" title="A set that was exported as a file, from this studio or another" (click)="picker.click()">
      Take a set in …
    </button>
    <input #picker hidden type="file" accept=".zip" (change)="open($event)" />
    @let now = state();
    @if (now.step !== 'none') {
      <div class="panel" role="region" aria-label="A set that is taken in">
        @switch (now.step) {
          @case ('opened') {
            <p>
              <strong>{{ now.opened.file.title }}</strong>: {{ holds() }}
            </p>
            <button nz-button nzType="primary" type="button" (click)="travel.takeIn(now.opened)">Take it in</button>
          }
          @case ('coming') {
            <p class="figures" role="status">{{ now.words }}</p>
          }
          @case ('in') {
            <p role="status">
              <a [routerLink]="['/sets', now.setId]">{{ now.file.title }}</a> is in.
              @if (now.missing.length) {
                {{ now.missing.length | counted: 'picture' }} did not come along, such as {{ now.missing[0] }}. Bring their masters in: they
                are told by their content, and get their place, stars and decisions.
              }
            </p>
            @for (problem of now.refused; track $index) {
              <p class="bad" role="alert">{{ problem.file }}: {{ problem.message }}</p>
            }
            @if (now.missing.length) {
              <button nz-button type="button" (click)="more.click()">Bring them in …</button>
              <input #more hidden type="file" multiple (change)="bring($event)" />
            }
          }
          @case ('failed') {
            <p class="bad" role="alert">{{ now.sentence }}</p>
          }
        }
        @if (now.step !== 'coming') {
          <button nz-button nzType="text" type="button" (click)="travel.state.set({ step: 'none' })">Close</button>
        }
      </div>
    }
  `,
  styles: `
    .panel {
      position: fixed;
      top: 108px;
      right: 28px;
      z-index: 15;
      max-width: 460px;
      padding: 14px 18px;
      background: var(--sheet);
      border: 1px solid var(--line-strong);
      border-radius: var(--radius);
      box-shadow: 0 6px 24px rgb(0 0 0 / 14%);
    }
    p {
      margin: 0 0 10px;
    }
    .bad {
      color: var(--brick);
    }
  `,
})
export class TakeSetIn {
  protected readonly travel = inject(TravellingSet);
  protected readonly state = this.travel.state;
  protected readonly holds = computed(() => {
    const now = this.state();
    return now.step === 'opened' ? holdsWhat(now.opened) : '';
  });

  protected open(event: Event): void {
    const [zip] = filesOf(event);
    if (zip) void this.travel.open(zip);
  }

  protected bring(event: Event): void {
    const [now, files] = [this.state(), filesOf(event)];
    if (now.step === 'in' && files.length) void this.travel.bringMissing(now.setId, now.file, files);
  }
}

function filesOf(event: Event): File[] {
  const field = event.target as HTMLInputElement;
  const files = [...(field.files ?? [])];
  field.value = '';
  return files;
}

/** @example "24 pictures with their masters, 204 MB; 3 presets; decisions about 2 pictures" */
function holdsWhat({ file, masters }: OpenedSet): string {
  const bytes = file.pictures.reduce((sum, picture) => sum + picture.bytes, 0);
  const theirs = file.pictures.length === 1 ? 'its master' : 'their masters';
  const along =
    masters.size === 0
      ? `without ${theirs}`
      : masters.size === file.pictures.length
        ? `with ${theirs}, ${weight(bytes)}`
        : `${masters.size} with their masters`;
  return [
    `${counted(file.pictures.length, 'picture')} ${along}`,
    ...(file.presets ? [counted(file.presets.presets.length, 'preset')] : []),
    ...(file.decisions.pictures.length ? [`decisions about ${counted(file.decisions.pictures.length, 'picture')}`] : []),
    `a record of ${counted(file.record.length, 'file')}`,
  ].join('; ');
}
