import { isDatabaseAway } from '@rundle/store';
import { UPLOAD_EXPIRES } from '../masters/uploads';
import type { Services } from '../services';
import { sweepCaches } from '../storage/caches';
import { CACHE_KEPT_MS, emptyBin, forgetArrivals, sweepUnfinished } from './sweep';

const MINUTE = 60_000;

/** Runs the clean-up jobs: once at the start, and then on a schedule. */
export class Housekeeping {
  private readonly timers: NodeJS.Timeout[] = [];

  /** @param lookAfterUploads takes in finished uploads, deletes old unfinished ones */
  constructor(
    private readonly services: Services,
    private readonly lookAfterUploads: () => Promise<void>,
  ) {}

  start(): void {
    this.every(MINUTE, 'clearing away unfinished files', () => sweepUnfinished(this.services));
    this.every(MINUTE, 'looking whether a backup is due', () => this.services.backups.look());
    this.every(10 * MINUTE, 'looking after uploads', this.lookAfterUploads);
    this.every(60 * MINUTE, 'emptying the bin', async () => {
      const { files, log } = this.services;
      const swept = await emptyBin(this.services);
      const tell = (contents: string[] | undefined, what: string) => contents?.length && log.warn({ contents }, what);
      tell(swept?.deleted, 'masters deleted: their last pictures were in the bin for 30 days');
      tell(swept?.discarded, 'masters put into the folder "bin" for 30 days: no picture names them');
      tell(swept?.restored, 'masters brought back from the folder "bin": pictures name them');
      tell(swept?.expired, 'masters deleted: they lay in the folder "bin" for 30 days, and no picture named them');
      await files.masters.sweepIncoming(UPLOAD_EXPIRES + 24 * 60 * MINUTE);
      await forgetArrivals(this.services);
      await sweepCaches(this.services.database, this.services.config.data, CACHE_KEPT_MS);
    });
  }

  end(): void {
    for (const timer of this.timers) clearInterval(timer);
  }

  private every(interval: number, what: string, act: () => Promise<unknown>): void {
    let busy = false;
    const turn = async () => {
      if (busy) return;
      busy = true;
      try {
        await act();
      } catch (error) {
        const { log } = this.services;
        log[isDatabaseAway(error) ? 'warn' : 'error']({ err: error }, `${what} failed; it is tried again later`);
      }
      busy = false;
    };
    void turn();
    this.timers.push(setInterval(() => void turn(), interval));
  }
}
