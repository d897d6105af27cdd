import { inject, Injectable, signal } from '@angular/core';
import { Title } from '@angular/platform-browser';
import { type RouterStateSnapshot, TitleStrategy } from '@angular/router';

/** The title of the window: the page, what it is about, and whose it is. */
@Injectable({ providedIn: 'root' })
export class PageTitle extends TitleStrategy {
  private readonly title = inject(Title);
  private readonly page = signal('');
  private about = '';
  private progress = '';

  /** What the page is called by its route: "Gather", "Presets". */
  readonly name = this.page.asReadonly();

  override updateTitle(snapshot: RouterStateSnapshot): void {
    this.page.set(this.buildTitle(snapshot) ?? '');
    this.show();
  }

  /** @param what the set or preset that the page is about; empty when it is left */
  setAbout(what: string): void {
    this.about = what;
    this.show();
  }

  /** @param words how far what is under way is; empty: nothing is */
  setProgress(words: string): void {
    if (words === this.progress) return;
    this.progress = words;
    this.show();
  }

  private show(): void {
    this.title.setTitle([this.progress, this.page(), this.about, 'Rundle'].filter(Boolean).join(' – '));
  }
}
