import { inject, Injectable } from '@angular/core';
import type { Master, Problem, UploadResult } from '@rundle/core';
import { firstValueFrom, lastValueFrom } from 'rxjs';
import { Api } from '../api/api';
import { inTurn } from './in-turn';
import { sendFile } from './send-file';

/** A file that can be had when its turn comes. */
export type FileSource = () => Promise<File>;

/** Files sent at a time; of all pages together, see {@link inTurn}. */
const AT_A_TIME = 2;
/** How often it is asked how far the work is, ms. */
const LOOK_MS = 400;

/** For whoever waits for files to be in a set before going on; the page of a set has its own way, in the store. */
@Injectable({ providedIn: 'root' })
export class BringFiles {
  private readonly api = inject(Api);

  /**
   * Sends files into a set, in their order.
   * @param onSent told after each how many are in, or refused
   */
  async send(
    setId: string,
    sources: readonly FileSource[],
    onSent: (done: number) => void,
  ): Promise<{ results: UploadResult[]; refused: Problem[] }> {
    const begun = Date.now() / 1000;
    const results: UploadResult[] = [];
    const refused: Problem[] = [];
    let [next, done] = [0, 0];
    const lane = async () => {
      for (let at = next++; at < sources.length; at = next++) {
        const last = await lastValueFrom(inTurn(AT_A_TIME, sendFile(setId, await sources[at]!(), begun + at / 1e6)));
        if (last.kind === 'in') results.push(last.result);
        if (last.kind === 'refused') refused.push(last.problem);
        onSent(++done);
      }
    };
    await Promise.all(Array.from({ length: AT_A_TIME }, lane));
    return { results, refused };
  }

  /** Pictures of a set, in its order, once all of those that are meant have been read. */
  async whenRead(setId: string, isMeant: (master: Master) => boolean): Promise<Master[]> {
    for (;;) {
      const meant = (await this.all(setId)).filter(isMeant);
      if (meant.every(({ state }) => state !== 'arriving')) return meant;
      await pause();
    }
  }

  private async all(setId: string): Promise<Master[]> {
    const masters: Master[] = [];
    for (;;) {
      const page = await firstValueFrom(this.api.listMasters({ setId, query: { from: masters.length } }));
      masters.push(...page.masters);
      if (page.masters.length === 0 || masters.length >= page.total) return masters;
    }
  }
}

/** Until it is asked again how far something is. */
export const pause = (): Promise<void> => new Promise((resolve) => setTimeout(resolve, LOOK_MS));
