import { effect, Injectable, signal, type WritableSignal } from '@angular/core';

/** What pictures stand on: a white page, mid grey, or a black page. */
export const SURROUNDS = ['white', 'grey', 'black'] as const;
export type Surround = (typeof SURROUNDS)[number];

/** How this browser likes to look at pictures: kept here, since it is of no concern to others. */
@Injectable({ providedIn: 'root' })
export class ViewChoices {
  /** Height of a thumbnail on the contact sheet, in px. */
  readonly thumbnail = kept<number>('thumbnail', 134, (value) => typeof value === 'number' && value >= 80 && value <= 320);
  readonly surround = kept<Surround>('surround', 'grey', (value) => (SURROUNDS as readonly unknown[]).includes(value));
  readonly layout = kept<'sheet' | 'table'>('layout', 'sheet', (value) => value === 'sheet' || value === 'table');

  constructor() {
    effect(() => (document.documentElement.dataset['surround'] = this.surround()));
  }
}

function kept<T extends string | number>(name: string, otherwise: T, valid: (value: unknown) => boolean): WritableSignal<T> {
  const key = `rundle.${name}`;
  const choice = signal<T>(read());
  effect(() => localStorage.setItem(key, JSON.stringify(choice())));
  return choice;

  function read(): T {
    try {
      const value: unknown = JSON.parse(localStorage.getItem(key) ?? 'null');
      return valid(value) ? (value as T) : otherwise;
    } catch {
      return otherwise; // written by hand, or by another release
    }
  }
}
