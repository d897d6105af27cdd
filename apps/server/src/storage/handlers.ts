import { join } from 'node:path';
import type { Freed } from '@rundle/core';
import { CACHE_KEPT_MS, emptyBin } from '../housekeeping/sweep';
import type { Handlers } from '../http/handlers';
import { requestProblem } from '../http/problem';
import type { Services } from '../services';
import { sendSetFile } from '../sets/set-file';
import { setDetail } from '../sets/summaries';
import { cacheEntries, filesBelow, keepBound, removeEntries, sweepCaches } from './caches';

export function storageHandlers(services: Services) {
  const { config, database, threads } = services;

  return {
    getStorage: () => threads.ask({ kind: 'storage' }),

    removeOutputs: ({ body }) => threads.ask({ kind: 'remove-outputs', wanted: body }),

    emptyCaches: async ({ body }) => {
      const entries = (await Promise.all(body.caches.map((cache) => cacheEntries(database, config.data, cache)))).flat();
      await removeEntries(entries);
      return { files: sum(entries.map(({ files }) => files)), bytes: sum(entries.map(({ bytes }) => bytes)) };
    },

    boundCaches: async ({ body }) => {
      await keepBound(database, body.boundMB);
      await sweepCaches(database, config.data, CACHE_KEPT_MS);
      return body;
    },

    emptyBin: async ({ body }): Promise<Freed> => {
      const before = await stored();
      if (!(await emptyBin(services, new Date(body.measuredAt))))
        throw requestProblem(
          'backup-under-way',
          'A backup is being made, and nothing may go meanwhile. Wait for its end, then empty the bin.',
        );
      const after = await stored();
      return { files: Math.max(0, before.files - after.files), bytes: Math.max(0, before.bytes - after.bytes) };
    },

    finishSet: async ({ setId }) => {
      await threads.ask({ kind: 'finish-set', setId });
      return setDetail(database, setId);
    },

    getSetFile: ({ setId, query, response }) => sendSetFile(services, setId, query.masters === 'with', response),

    previewClearing: ({ setId, body }) => threads.ask({ kind: 'clearing', setId, masterIds: body.masterIds }),
  } satisfies Partial<Handlers>;

  /** What masters and the bin take now. */
  async function stored(): Promise<Freed> {
    const files = (await Promise.all(['masters', 'cache/proxies', 'bin'].map((folder) => filesBelow(join(config.data, folder))))).flat();
    return { files: files.length, bytes: sum(files.map(({ bytes }) => bytes)) };
  }
}

const sum = (values: readonly number[]): number => values.reduce((all, one) => all + one, 0);
