import { fileSafe, recordAsCsv } from '@rundle/core';
import { type RunRow, runViews } from '@rundle/store';
import type { Handlers } from '../http/handlers';
import type { Services } from '../services';
import { notFound } from '../http/problem';
import { cancelRun } from './cancel-run';
import { moveRun, openRuns, pauseRun, resumeRun } from './open-runs';
import { recordOf } from './run-record';

/** Runs that have ended, in the list of all. */
const MOST_ENDED = 100;

export function runHandlers({ database, threads }: Services) {
  const { runs } = database;

  return {
    forecastPreset: ({ setId, body }) => threads.ask({ kind: 'forecast', setId, preset: body }),

    listNewNames: ({ setId, body }) => threads.ask({ kind: 'new-names', setId, preset: body }),

    planSet: ({ setId, body }) => threads.ask({ kind: 'plan', setId, ...body }),

    startRun: ({ setId, body }) => threads.ask({ kind: 'run', setId, wanted: body }),

    listRuns: async ({ setId }) => runViews(database, await runs.findAll({ where: { setId }, order: [['startedAt', 'DESC']] })),

    listAllRuns: async () => {
      const ended = await runs.findAll({ where: { state: ['done', 'cancelled'] }, order: [['startedAt', 'DESC']], limit: MOST_ENDED });
      return runViews(database, [...(await openRuns(database)), ...ended]);
    },

    getRun: ({ runId }) => threads.ask({ kind: 'run-detail', runId }),

    cancelRun: ({ runId }) => changed(runId, (run) => cancelRun(database, run)),
    pauseRun: ({ runId }) => changed(runId, (run) => pauseRun(database, run)),
    resumeRun: ({ runId }) => changed(runId, (run) => resumeRun(database, run)),

    moveRun: async ({ runId, body }) => {
      await moveRun(database, (await findRun(runId)).id, body.before);
      return runViews(database, await openRuns(database));
    },

    getRunRecord: async ({ runId }) => recordOf(database, await findRun(runId)),

    getRunTable: async ({ runId, response }) => {
      const run = await findRun(runId);
      const record = await recordOf(database, run);
      response.attachment(`${fileSafe(`${record.set} ${run.startedAt.toISOString().slice(0, 16).replace('T', ' ')}`)}.csv`);
      response.type('text/csv; charset=utf-8').send(recordAsCsv(record));
    },
  } satisfies Partial<Handlers>;

  async function changed(runId: string, change: (run: RunRow) => Promise<void>) {
    const run = await findRun(runId);
    await change(run);
    return viewOf(await run.reload());
  }

  async function viewOf(run: RunRow) {
    const [view] = await runViews(database, [run]);
    if (!view) throw notFound('run');
    return view;
  }

  async function findRun(id: string): Promise<RunRow> {
    const run = await runs.findByPk(id);
    if (!run) throw notFound('run');
    return run;
  }
}
