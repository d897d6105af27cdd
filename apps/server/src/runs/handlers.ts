import { outputView, type RunRow, runView } from '@rundle/store';
import type { Handlers } from '../http/handlers';
import type { Services } from '../services';
import { notFound } from '../http/problem';
import { cancelRun } from './cancel-run';

export function runHandlers({ database, threads }: Services) {
  const { runs, outputs } = database;

  return {
    forecastPreset: ({ setId, body }) => threads.ask({ kind: 'forecast', setId, preset: body }),

    planSet: ({ setId, body }) => threads.ask({ kind: 'plan', setId, presetIds: body.presetIds }),

    startRun: ({ setId, body }) => threads.ask({ kind: 'run', setId, presetIds: body.presetIds }),

    listRuns: async ({ setId }) => (await runs.findAll({ where: { setId }, order: [['startedAt', 'DESC']] })).map(runView),

    getRun: async ({ runId }) => {
      const run = await findRun(runId);
      const rows = await outputs.findAll({ where: { runId: run.id }, order: [['position', 'ASC']] });
      return { ...runView(run), outputs: rows.map(outputView) };
    },

    cancelRun: async ({ runId }) => {
      const run = await findRun(runId);
      await cancelRun(database, run);
      return runView(await run.reload());
    },
  } satisfies Partial<Handlers>;

  async function findRun(id: string): Promise<RunRow> {
    const run = await runs.findByPk(id);
    if (!run) throw notFound('run');
    return run;
  }
}
