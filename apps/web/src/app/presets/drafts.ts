import { DestroyRef, inject, Injectable, signal } from '@angular/core';
import { GuessedValue, Preset, StoredPreset } from '@rundle/core';
import * as z from 'zod';

/** A preset that has been changed and not been saved. */
export interface Draft {
  /** The version that it began from; version 0: it has never been saved. */
  base: StoredPreset;
  draft: Preset;
  /** What was found in a file that it began with. */
  found?: { fileName: string; values: GuessedValue[] } | undefined;
}

/** The id of a preset that has never been saved. */
export const NEW = 'new';

const KEY = 'rundle.drafts';
const Found = z.object({ fileName: z.string(), values: z.array(GuessedValue) });
const Kept = z.record(
  z.string(),
  z.object({ base: StoredPreset.extend({ id: z.string(), version: z.int().min(0) }), draft: Preset, found: Found.optional() }),
);

/** Drafts of presets, kept in this browser until they are saved or discarded on purpose: leaving the page loses nothing. */
@Injectable({ providedIn: 'root' })
export class Drafts {
  private readonly kept = signal<Readonly<Record<string, Draft>>>(read());
  /** All of them, by the id of their preset. */
  readonly all = this.kept.asReadonly();

  constructor() {
    const follow = ({ key }: StorageEvent) => {
      if (key === KEY) this.kept.set(read());
    };
    window.addEventListener('storage', follow);
    inject(DestroyRef).onDestroy(() => window.removeEventListener('storage', follow));
  }

  keep(draft: Draft): void {
    this.write({ ...this.kept(), [draft.base.id]: draft });
  }

  discard(presetId: string): void {
    if (!(presetId in this.kept())) return;
    this.write(Object.fromEntries(Object.entries(this.kept()).filter(([id]) => id !== presetId)));
  }

  private write(drafts: Readonly<Record<string, Draft>>): void {
    this.kept.set(drafts);
    localStorage.setItem(KEY, JSON.stringify(drafts));
  }
}

function read(): Record<string, Draft> {
  try {
    return Kept.parse(JSON.parse(localStorage.getItem(KEY) ?? '{}'));
  } catch {
    return {}; // edited by hand, or written by another release
  }
}

/** What a preset that has never been saved starts as. */
export const newPreset = (): StoredPreset => ({
  id: NEW,
  version: 0,
  updatedAt: new Date(0).toISOString(),
  group: '',
  favourite: false,
  preset: Preset.parse({ kind: 'rundle.preset', version: 1, title: 'New preset' }),
});
