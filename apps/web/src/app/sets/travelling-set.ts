import { inject, Injectable, signal } from '@angular/core';
import { parseSetFile, placedPictures, type Problem, SET_FILE_NAME, type SetFile, type StoredPreset } from '@rundle/core';
import { firstValueFrom } from 'rxjs';
import { Api } from '../api/api';
import { sentenceOf } from '../api/problem-of';
import { BringFiles, type FileSource } from '../arrive/bring-files';

/** A set that somebody has brought along. */
export interface OpenedSet {
  file: SetFile;
  /** By their paths. */
  masters: ReadonlyMap<string, FileSource>;
}

export type TravelState =
  | { step: 'none' }
  | { step: 'opened'; opened: OpenedSet }
  | { step: 'coming'; words: string }
  /** Pictures that it speaks of and that have not come stay missing until they are brought in. */
  | { step: 'in'; setId: string; file: SetFile; missing: string[]; refused: Problem[] }
  | { step: 'failed'; sentence: string };

/** Takes whole sets in, as another studio has given them: what was decided, the presets, and the masters where they came along. */
@Injectable()
export class TravellingSet {
  private readonly api = inject(Api);
  private readonly files = inject(BringFiles);
  readonly state = signal<TravelState>({ step: 'none' });

  async open(zip: File): Promise<void> {
    await this.told(async () => {
      const { BlobReader, BlobWriter, configure, TextWriter, ZipReader } = await import('@zip.js/zip.js');
      // What is stored as it is needs no workers, which would have to come from elsewhere than this page's own files.
      configure({ useWebWorkers: false });
      const entries = await new ZipReader(new BlobReader(zip)).getEntries().catch(() => {
        throw new Error(`${zip.name} is no ZIP, or cut off. Export the set again, or copy the file again.`);
      });
      const files = entries.filter((entry) => !entry.directory);
      const description = files.find(({ filename }) => filename === SET_FILE_NAME);
      if (!description) throw new Error(`${zip.name} holds no ${SET_FILE_NAME}: it is not a set that was exported.`);
      const parsed = parseSetFile(await description.getData(new TextWriter()));
      if (!parsed.ok) throw new Error(`${zip.name}: ${parsed.problems.map(({ message }) => message).join(' ')}`);
      const byPath = new Map(files.map((entry) => [entry.filename, entry]));
      const masters = new Map(
        parsed.value.pictures.flatMap(({ master, name }): [string, FileSource][] => {
          const entry = master === null ? undefined : byPath.get(master);
          return entry ? [[master!, async () => new File([await entry.getData(new BlobWriter())], name)]] : [];
        }),
      );
      this.state.set({ step: 'opened', opened: { file: parsed.value, masters } });
    });
  }

  async takeIn({ file, masters }: OpenedSet): Promise<void> {
    await this.told(async () => {
      this.state.set({ step: 'coming', words: 'Its presets …' });
      const presets = await this.presetsOf(file);
      const { id: setId } = await firstValueFrom(this.api.createSet({ body: { title: file.title } }));
      const presetIds = file.chosen.flatMap((title) => presets.find(({ preset }) => preset.title === title)?.id ?? []);
      await firstValueFrom(this.api.changeSet({ setId, body: { presetIds, rights: file.rights } }));
      await this.bring(setId, file, [...masters.values()]);
    });
  }

  /** Brings pictures in whose masters did not travel along; they are told by their content. */
  async bringMissing(setId: string, file: SetFile, files: readonly File[]): Promise<void> {
    await this.told(() =>
      this.bring(
        setId,
        file,
        files.map((one) => () => Promise.resolve(one)),
      ),
    );
  }

  private async bring(setId: string, file: SetFile, sources: readonly FileSource[]): Promise<void> {
    const tell = (done: number) => this.state.set({ step: 'coming', words: `${done} of ${sources.length} pictures brought in` });
    if (sources.length) tell(0);
    const { refused } = await this.files.send(setId, sources, tell);
    const masters = await this.files.whenRead(setId, () => true);
    const { order, marks, missing } = placedPictures(file, masters);
    if (order.length) await firstValueFrom(this.api.changeOrder({ setId, body: { masterIds: order } }));
    if (marks.length) await firstValueFrom(this.api.changeMarks({ setId, body: { marks } }));
    const { marks: decided } = await firstValueFrom(this.api.matchDecisions({ setId, body: file.decisions }));
    if (decided.length) await firstValueFrom(this.api.changeMarks({ setId, body: { marks: decided } }));
    this.state.set({ step: 'in', setId, file, missing, refused });
  }

  /** Those that are here already as they are, and those that have to come in. */
  private async presetsOf({ presets }: SetFile): Promise<StoredPreset[]> {
    if (!presets) return [];
    const here = await firstValueFrom(this.api.listPresets());
    const same = (wanted: object) => here.find(({ preset }) => JSON.stringify(preset) === JSON.stringify(wanted));
    const fresh = presets.presets.filter((preset) => !same(preset));
    const made = fresh.length ? await firstValueFrom(this.api.importPresets({ body: { ...presets, presets: fresh } })) : [];
    return [...made, ...presets.presets.flatMap((preset) => same(preset) ?? [])];
  }

  private async told(act: () => Promise<void>): Promise<void> {
    try {
      await act();
    } catch (error) {
      this.state.set({ step: 'failed', sentence: error instanceof Error && !('status' in error) ? error.message : sentenceOf(error) });
    }
  }
}
