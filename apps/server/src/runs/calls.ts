import { Id, PlanView, PresetChoice, Run, RunDetail } from '@rundle/core';
import { outputView, type RunRow, runView } from '@rundle/store';
import * as z from 'zod';
import type { Api } from '../http/api';
import type { Services } from '../services';
import { notFound } from '../http/problem';
import { SetParams } from '../sets/find';
import { cancelRun } from './cancel-run';

const RunParams = z.object({ runId: Id });

export function addRunCalls(api: Api, { database, threads }: Services): void {
  const { runs, outputs } = database;

  api.add(
    {
      method: 'post',
      path: '/api/sets/{setId}/plan',
      summary: 'What would come out; writes nothing',
      params: SetParams,
      body: PresetChoice,
      answer: PlanView,
    },
    ({ params, body }) => threads.ask({ kind: 'plan', setId: params.setId, presetIds: body.presetIds }),
  );

  api.add(
    {
      method: 'post',
      path: '/api/sets/{setId}/runs',
      summary: 'Starts a run',
      params: SetParams,
      body: PresetChoice,
      answer: RunDetail,
      status: 201,
    },
    ({ params, body }) => threads.ask({ kind: 'run', setId: params.setId, presetIds: body.presetIds }),
  );

  api.add(
    { method: 'get', path: '/api/sets/{setId}/runs', summary: 'The runs of a set, newest first', params: SetParams, answer: z.array(Run) },
    async ({ params }) => (await runs.findAll({ where: { setId: params.setId }, order: [['startedAt', 'DESC']] })).map(runView),
  );

  api.add(
    { method: 'get', path: '/api/runs/{runId}', summary: 'A run with its outputs', params: RunParams, answer: RunDetail },
    async ({ params }) => {
      const run = await findRun(params.runId);
      const rows = await outputs.findAll({ where: { runId: run.id }, order: [['position', 'ASC']] });
      return { ...runView(run), outputs: rows.map(outputView) };
    },
  );

  api.add(
    {
      method: 'post',
      path: '/api/runs/{runId}/cancel',
      summary: 'Cancels what has not begun; what is done stays',
      params: RunParams,
      answer: Run,
    },
    async ({ params }) => {
      const run = await findRun(params.runId);
      await cancelRun(database, run);
      return runView(await run.reload());
    },
  );

  async function findRun(id: string): Promise<RunRow> {
    const run = await runs.findByPk(id);
    if (!run) throw notFound('run');
    return run;
  }
}
