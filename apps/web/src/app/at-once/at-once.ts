import { inject, Injectable, signal } from '@angular/core';
import { type Delivery, isOpenDelivery, type Master, type Problem, type RunDetail } from '@rundle/core';
import { firstValueFrom, lastValueFrom } from 'rxjs';
import { Api, deliveryZipUrl, outputUrl } from '../api/api';
import { sentenceOf } from '../api/problem-of';
import { inTurn } from '../arrive/in-turn';
import { sendFile } from '../arrive/send-file';

/** Pictures that are to be made smaller: files that were given to the page, or files of the machine that stay where they are. */
export type Pictures = { kind: 'files'; files: readonly File[] } | { kind: 'machine'; folder: string; names: readonly string[] | null };

/** What has come of it. */
export interface Made {
  setId: string;
  masterIds: string[];
  presetId: string;
  /** Of the masters, and of what was made of them. */
  before: number;
  after: number;
  outputs: RunDetail['outputs'];
  refused: Problem[];
}

export type AtOnceState =
  | { step: 'choice' }
  | { step: 'coming'; done: number; total: number }
  | { step: 'reading' }
  | { step: 'making'; done: number; total: number }
  | { step: 'made'; made: Made }
  | { step: 'failed'; sentence: string };

/** Files sent at a time; of all pages together, see {@link inTurn}. */
const AT_A_TIME = 2;
/** How often it is asked how far the work is, ms. */
const LOOK_MS = 400;

/** Web versions of a few pictures by one press: brings them into the set of the day, and runs one preset over them. */
@Injectable()
export class AtOnce {
  private readonly api = inject(Api);
  readonly state = signal<AtOnceState>({ step: 'choice' });

  async make(pictures: Pictures, presetId: string): Promise<void> {
    try {
      const setId = await this.setOfTheDay();
      const { names, refused } = pictures.kind === 'files' ? await this.send(setId, pictures.files) : await this.take(setId, pictures);
      this.state.set({ step: 'reading' });
      const masters = await this.whenRead(setId, names);
      const unread = masters.flatMap(({ problem }) => problem ?? []);
      const ready = masters.filter(({ state }) => state === 'ready');
      if (ready.length === 0) throw new Error([...refused, ...unread][0]?.message ?? 'None of these files is a picture that can be read.');
      const masterIds = ready.map(({ id }) => id);
      const run = await this.run(setId, presetId, masterIds);
      const outputs = run.outputs.filter(({ state }) => state === 'done' || state === 'skipped');
      const failed = run.outputs.flatMap(({ error }) => error ?? []);
      if (outputs.length === 0) throw new Error(failed[0]?.message ?? 'Nothing was made.');
      this.state.set({
        step: 'made',
        made: {
          setId,
          masterIds,
          presetId,
          outputs,
          before: ready.reduce((sum, { bytes }) => sum + bytes, 0),
          after: outputs.reduce((sum, { bytes }) => sum + (bytes ?? 0), 0),
          refused: [...refused, ...unread, ...failed],
        },
      });
    } catch (error) {
      this.state.set({ step: 'failed', sentence: error instanceof Error && !('status' in error) ? error.message : sentenceOf(error) });
    }
  }

  /** Downloads what was made: one file as it is, several as a ZIP of checked files. @throws what {@link sentenceOf} tells */
  async download({ setId, masterIds, presetId, outputs }: Made): Promise<void> {
    const [only, ...more] = outputs;
    if (only && more.length === 0) return save(outputUrl(only.id), only.fileName);
    const content = { presetIds: [presetId], masterIds, layout: 'flat' as const, manifest: false };
    const started = await firstValueFrom(this.api.startDelivery({ setId, body: { way: { kind: 'zip' }, content, gallery: null } }));
    let delivery: Delivery = started;
    while (isOpenDelivery(delivery)) {
      await pause();
      delivery = await firstValueFrom(this.api.getDelivery({ deliveryId: started.id }));
    }
    if (delivery.state !== 'done')
      throw new Error(delivery.problem?.message ?? 'The ZIP could not be made. Look at Deliver, under Hand over.');
    save(deliveryZipUrl(delivery.id), '');
  }

  /** What is made so on one day lies in one set. */
  private async setOfTheDay(): Promise<string> {
    const day = new Date().toLocaleDateString('en-GB', { day: 'numeric', month: 'long', year: 'numeric' });
    const title = `Web versions of ${day}`;
    const sets = await firstValueFrom(this.api.listSets());
    const today = sets.find((set) => set.title === title && set.shelf === 'work');
    return (today ?? (await firstValueFrom(this.api.createSet({ body: { title } })))).id;
  }

  private async send(setId: string, files: readonly File[]): Promise<Brought> {
    const begun = Date.now() / 1000;
    let done = 0;
    this.state.set({ step: 'coming', done, total: files.length });
    const ended = await Promise.all(
      files.map(async (file, index) => {
        const last = await lastValueFrom(inTurn(AT_A_TIME, sendFile(setId, file, begun + index / 1e6)));
        this.state.set({ step: 'coming', done: ++done, total: files.length });
        return last;
      }),
    );
    const results = ended.flatMap((last) => (last.kind === 'in' ? last.result : []));
    return {
      // What the set has already is called as it was when it came first.
      names: results.flatMap(({ masters, twins }) => [...masters.map(({ fileName }) => fileName), ...twins.map(({ of }) => of)]),
      refused: ended.flatMap((last) => (last.kind === 'refused' ? last.problem : [])),
    };
  }

  private async take(setId: string, { folder, names }: Extract<Pictures, { kind: 'machine' }>): Promise<Brought> {
    const body = { path: folder, deeper: false, ...(names ? { names: [...names] } : {}) };
    const { refused } = await firstValueFrom(this.api.addFromMachine({ setId, body }));
    return { names, refused };
  }

  /** Those that came, once all of them have been read. */
  private async whenRead(setId: string, names: readonly string[] | null): Promise<Master[]> {
    for (;;) {
      const { masters } = await firstValueFrom(this.api.listMasters({ setId }));
      const own = names ? masters.filter(({ fileName }) => names.includes(fileName)) : masters;
      if (own.every(({ state }) => state !== 'arriving')) return own;
      await pause();
    }
  }

  private async run(setId: string, presetId: string, masterIds: string[]): Promise<RunDetail> {
    let run = await firstValueFrom(this.api.startRun({ setId, body: { presetIds: [presetId], masterIds } }));
    for (;;) {
      const { done, failed, skipped, total } = run.counts;
      this.state.set({ step: 'making', done: done + failed + skipped, total });
      if (run.state === 'done' || run.state === 'cancelled') return run;
      await pause();
      run = await firstValueFrom(this.api.getRun({ runId: run.id }));
    }
  }
}

interface Brought {
  /** Null: all of the set. */
  names: readonly string[] | null;
  refused: Problem[];
}

const pause = (): Promise<void> => new Promise((resolve) => setTimeout(resolve, LOOK_MS));

/** Has the browser save something. */
function save(href: string, download: string): void {
  Object.assign(document.createElement('a'), { href, download }).click();
}
