import { inject, Injectable, signal } from '@angular/core';
import { type Delivery, isOpenDelivery, type Master, type Problem, type RunDetail, type SetSummary } from '@rundle/core';
import { firstValueFrom } from 'rxjs';
import { Api, deliveryZipUrl, outputUrl } from '../api/api';
import { sentenceOf } from '../api/problem-of';
import { BringFiles, pause } from '../arrive/bring-files';

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

/** Web versions of a few pictures by one press: brings them into the set of the day, and runs one preset over them. */
@Injectable()
export class AtOnce {
  private readonly api = inject(Api);
  private readonly files = inject(BringFiles);
  readonly state = signal<AtOnceState>({ step: 'choice' });

  async make(pictures: Pictures, presetId: string): Promise<void> {
    try {
      const setId = await this.setOfTheDay();
      const { isMeant, refused } = pictures.kind === 'files' ? await this.send(setId, pictures.files) : await this.take(setId, pictures);
      this.state.set({ step: 'reading' });
      const masters = await this.files.whenRead(setId, isMeant);
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

  /** What was made so today lies in one set. */
  async today(): Promise<SetSummary | undefined> {
    const title = titleOfToday();
    return (await firstValueFrom(this.api.listSets())).find((set) => set.title === title && set.shelf === 'work');
  }

  private async setOfTheDay(): Promise<string> {
    return ((await this.today()) ?? (await firstValueFrom(this.api.createSet({ body: { title: titleOfToday() } })))).id;
  }

  private async send(setId: string, files: readonly File[]): Promise<Brought> {
    const tell = (done: number) => this.state.set({ step: 'coming', done, total: files.length });
    tell(0);
    const { results, refused } = await this.files.send(
      setId,
      files.map((file) => () => Promise.resolve(file)),
      tell,
    );
    const ids = new Set(results.flatMap(({ masters }) => masters.map(({ id }) => id)));
    // What the set has already did not come in again: it is told by its content, of which a list has the first digits.
    const twins = results.flatMap((result) => result.twins.map(({ sha256 }) => sha256));
    const isTwin = ({ content }: Master) => content !== null && twins.some((sha256) => sha256.startsWith(content));
    return { isMeant: (master) => ids.has(master.id) || isTwin(master), refused };
  }

  private async take(setId: string, { folder, names }: Extract<Pictures, { kind: 'machine' }>): Promise<Brought> {
    const body = { path: folder, deeper: false, ...(names ? { names: [...names] } : {}) };
    const { refused, masterIds } = await firstValueFrom(this.api.addFromMachine({ setId, body }));
    const ids = new Set(masterIds);
    return { isMeant: ({ id }) => ids.has(id), refused };
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
  /** Which pictures of the set they are. */
  isMeant: (master: Master) => boolean;
  refused: Problem[];
}

function titleOfToday(): string {
  return `Web versions of ${new Date().toLocaleDateString('en-GB', { day: 'numeric', month: 'long', year: 'numeric' })}`;
}

/** Has the browser save something. */
function save(href: string, download: string): void {
  Object.assign(document.createElement('a'), { href, download }).click();
}
