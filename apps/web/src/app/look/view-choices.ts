import { effect, Injectable, signal, type WritableSignal } from '@angular/core';

/** What pictures stand on: a white page, mid grey, or a black page. */
export const SURROUNDS = ['white', 'grey', 'black'] as const;
export type Surround = (typeof SURROUNDS)[number];

/** How this browser shows pictures: stored in the browser, since it concerns no other. */
@Injectable({ providedIn: 'root' })
export class ViewChoices {
  /** Height of a thumbnail on the contact sheet, in px. */
  readonly thumbnail = persistedSignal<number>('thumbnail', 134, (value) => typeof value === 'number' && value >= 80 && value <= 320);
  readonly surround = persistedSignal<Surround>('surround', 'grey', (value) => (SURROUNDS as readonly unknown[]).includes(value));
  readonly layout = persistedSignal<'sheet' | 'table'>('layout', 'sheet', (value) => value === 'sheet' || value === 'table');
  /** The picture that presets are judged on: set, place of the strip in it, master. */
  readonly sample = persistedSignal<string>('sample', '', (value) => typeof value === 'string');

  /** Whether the picture on the bench has the room of the sentences, but for the one that is being set. */
  readonly largeBench = persistedSignal<boolean>('large-bench', false, (value) => typeof value === 'boolean');

  /** Whether the run sheet has new names on a line of their own where there is no room for them beside the figures. */
  readonly newNames = persistedSignal<boolean>('new-names', false, (value) => typeof value === 'boolean');

  /** How the last sheet of prints was laid out, as JSON. */
  readonly sheet = persistedSignal<string>('sheet', '', (value) => typeof value === 'string');

  /** Whether keys that write a letter, digit or sign do something by themselves (WCAG 2.2, 2.1.4: they can be switched off). */
  readonly singleKeys = persistedSignal<boolean>('single-keys', true, (value) => typeof value === 'boolean');

  constructor() {
    effect(() => (document.documentElement.dataset['surround'] = this.surround()));
  }
}

function persistedSignal<T extends string | number | boolean>(
  name: string,
  otherwise: T,
  valid: (value: unknown) => boolean,
): WritableSignal<T> {
  const key = `rundle.${name}`;
  const choice = signal<T>(read());
  effect(() => localStorage.setItem(key, JSON.stringify(choice())));
  return choice;

  function read(): T {
    try {
      const value: unknown = JSON.parse(localStorage.getItem(key) ?? 'null');
      return valid(value) ? (value as T) : otherwise;
    } catch {
      return otherwise; // edited by hand, or written by another release
    }
  }
}
