import { inject, Injectable, signal } from '@angular/core';
import { type Bundle, fileNameOf, parseBundleText } from '@rundle/core';
import { firstValueFrom } from 'rxjs';
import { Api } from '../api/api';
import { problemsOf } from '../api/problem-of';
import { saveFile } from './save-file';

/** What came of a file that was brought in. */
export interface Brought {
  file: string;
  /** Names of the presets that came in. */
  titles: readonly string[];
  /** Why none did: one sentence for each field that is wrong. */
  wrong: readonly string[];
}

/** The heaviest file of presets that is read, in bytes: logos travel in them. */
const HEAVIEST = 2_000_000;

/** Presets on their way out and in, as open files. */
@Injectable({ providedIn: 'root' })
export class Travel {
  private readonly api = inject(Api);
  readonly brought = signal<readonly Brought[]>([]);

  /** One preset without a watermark as `*.preset.json`, all else as `*.bundle.json`. @param title of the bundle, where it has one */
  async export(ids: readonly string[], title?: string): Promise<void> {
    const bundle = await firstValueFrom(this.api.exportPresets({ query: { ids: ids.join(',') } }));
    const [only] = bundle.presets;
    if (bundle.presets.length === 1 && bundle.watermarks.length === 0 && only) saveFile(fileNameOf(only.title, 'preset'), only);
    else {
      const named = title ?? (bundle.presets.length === 1 ? bundle.title : `${bundle.title} and ${bundle.presets.length - 1} more`);
      saveFile(fileNameOf(named, 'bundle'), { ...bundle, title: named } satisfies Bundle);
    }
  }

  /** Checks files and takes their presets in; what is wrong with one of them does not hold up the others. */
  async bringIn(files: readonly File[]): Promise<void> {
    this.brought.set([]);
    for (const file of files) {
      const came = await this.bring(file);
      this.brought.update((all) => [...all, came]);
    }
  }

  private async bring(file: File): Promise<Brought> {
    const about = { file: file.name, titles: [], wrong: [] };
    if (file.size > HEAVIEST) return { ...about, wrong: ['It is heavier than 2 MB, which no file of presets is.'] };
    const parsed = parseBundleText(await file.text());
    if (!parsed.ok) return { ...about, wrong: parsed.problems.map(({ message }) => message) };
    try {
      const made = await firstValueFrom(this.api.importPresets({ body: parsed.value }));
      return { ...about, titles: made.map(({ preset }) => preset.title) };
    } catch (error) {
      return { ...about, wrong: problemsOf(error) };
    }
  }
}
