import { drainWorker } from '@rundle/store';
import type { Handlers } from '../http/handlers';
import { notFound } from '../http/problem';
import type { Services } from '../services';
import { workersView } from './workers-view';

export function workerHandlers({ database }: Services) {
  return {
    getWorkers: () => workersView(database),

    changeWorker: async ({ workerId, body }) => {
      if (!(await drainWorker(database.sequelize, workerId, body.drained))) throw notFound('worker');
    },
  } satisfies Partial<Handlers>;
}
