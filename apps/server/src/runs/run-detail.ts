import type { RunDetail } from '@rundle/core';
import { type Database, outputView, runViews } from '@rundle/store';
import { notFound } from '../http/problem';

/** What is told of an output, and no more: a run has thousands of them. */
const TOLD = [
  'id',
  'runId',
  'masterId',
  'presetId',
  'part',
  'presetVersion',
  'target',
  'folder',
  'fileName',
  'width',
  'height',
  'expectedBytes',
  'bytes',
  'quality',
  'measures',
  'warnings',
  'ms',
  'state',
  'error',
] as const;

/** A run with all its outputs. To be asked of a thread. @throws HttpProblem 404 */
export async function runDetail(database: Database, runId: string): Promise<RunDetail> {
  const { runs, outputs } = database;
  const [view] = await runViews(database, await runs.findAll({ where: { id: runId } }));
  if (!view) throw notFound('run');
  // After it, so that no run is told as ended with outputs from before its end.
  const told = await outputs.findAll({ where: { runId }, order: [['position', 'ASC']], attributes: [...TOLD], raw: true });
  return { ...view, outputs: told.map(outputView) };
}
