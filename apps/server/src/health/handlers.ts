import { FILE_TYPE_NAMES, type Health } from '@rundle/core';
import { isDatabaseAway, listWorkers, STALLED_AFTER, workCounts, writableTypes } from '@rundle/store';
import type { Handlers } from '../http/handlers';
import type { Services } from '../services';

/** Below so many free bytes a set of large pictures and its outputs does not fit any more. */
const LITTLE_ROOM = 2e9;

export function healthHandlers({ database, files }: Services) {
  return {
    listFileTypes: async () => {
      const writable = await writableTypes(database.sequelize);
      return FILE_TYPE_NAMES.map((type) => ({ type, ready: writable.has(type) }));
    },

    getHealth: async () => {
      const freeBytes = await files.outputs.freeBytes().catch(() => null);
      const disk = { freeBytes, well: freeBytes === null || freeBytes > LITTLE_ROOM };
      const { queue, workers } = await inDatabase();
      const well = disk.well && workers !== null && workers.some((worker) => worker.well);
      return { well, database: { well: queue !== null }, queue, workers, disk };
    },
  } satisfies Partial<Handlers>;

  async function inDatabase(): Promise<Pick<Health, 'queue' | 'workers'>> {
    try {
      const [queue, workers] = await Promise.all([workCounts(database.sequelize), listWorkers(database.sequelize)]);
      return {
        queue,
        workers: workers.map(({ reads, writes, ...worker }) => ({
          ...worker,
          well: worker.beatSecondsAgo < STALLED_AFTER,
          reads: [...reads],
          writes: [...writes],
        })),
      };
    } catch (error) {
      if (!isDatabaseAway(error)) throw error;
      return { queue: null, workers: null };
    }
  }
}
