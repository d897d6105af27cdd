import { HttpClient } from '@angular/common/http';
import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { Router, RouterLink } from '@angular/router';
import { addressOf, type PresetGuess } from '@rundle/core';
import { NzButtonModule } from 'ng-zorro-antd/button';
import { sentenceOf } from '../api/problem-of';
import { Drafts, NEW, newPreset } from '../presets/drafts';

/** Makes a preset from a finished file that somebody likes: it is looked at, and a new preset begins with what was found. */
@Component({
  selector: 'rd-like-a-file',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [NzButtonModule, RouterLink],
  template: `
    <button nz-button [disabled]="looking() !== null" (click)="file.click()">Make one like a file …</button>
    <input #file type="file" accept="image/*" hidden aria-label="A finished file that you like" (change)="chosen(file)" />
    @if (looking(); as name) {
      <span class="soft" role="status">Looking at {{ name }} …</span>
    }
    @if (wrong(); as sentence) {
      <span class="wrong" role="alert">{{ sentence }}</span>
    }
    @if (isAsked() && inTheWay()) {
      <span class="wrong" role="alert">
        “{{ inTheWay()!.title }}” is new and not saved. <a routerLink="/presets/new">Save or discard it</a> first.
      </span>
    }
  `,
  styles: `
    :host {
      display: contents;
    }
    .wrong {
      flex-basis: 100%;
      color: var(--brick);
      text-align: right;
    }
  `,
})
export class LikeAFile {
  private readonly http = inject(HttpClient);
  private readonly router = inject(Router);
  private readonly drafts = inject(Drafts);
  /** Name of the file that is being looked at. */
  protected readonly looking = signal<string | null>(null);
  protected readonly wrong = signal<string | null>(null);
  protected readonly isAsked = signal(false);
  protected readonly inTheWay = computed(() => this.drafts.all()[NEW]?.draft ?? null);

  protected chosen(input: HTMLInputElement): void {
    const file = input.files?.[0];
    // The same file may be chosen again.
    input.value = '';
    if (file) this.look(file);
  }

  /** @param file chosen, or dropped on the page */
  look(file: File): void {
    this.wrong.set(null);
    this.isAsked.set(true);
    if (this.inTheWay() || this.looking()) return;
    this.looking.set(file.name);
    const address = addressOf('guessPreset', { query: { name: file.name } });
    // As bytes, whatever it is called: its content says what it is.
    this.http.post<PresetGuess>(address, new Blob([file], { type: 'application/octet-stream' })).subscribe({
      next: ({ preset, values }) => {
        this.looking.set(null);
        this.drafts.keep({ base: newPreset(), draft: preset, found: { fileName: file.name, values } });
        void this.router.navigate(['/presets', NEW]);
      },
      error: (error: unknown) => {
        this.looking.set(null);
        this.wrong.set(sentenceOf(error));
      },
    });
  }
}
