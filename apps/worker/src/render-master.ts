import { stat } from 'node:fs/promises';
import { MasterFacts, Preset, type Problem, StudioDetails, type Treatment, treatedFacts, treatedPreset } from '@rundle/core';
import type { MasterJob, OutputResult, RenderPool } from '@rundle/render';
import { type Database, type JobOf, type MasterRow, notify, type OutputRow, type Storage, treatmentOf } from '@rundle/store';
import { drawable } from './check-watermark';
import { finishRun } from './finish-run';

/**
 * Renders all outputs that a run still wants of one master. Each result is written down as it comes, so that a job that
 * is begun again after a crash does only what is left.
 * @param signal ends the work between two outputs
 */
export async function renderMasterJob(
  { runId, masterId }: JobOf<'render-master'>,
  database: Database,
  storage: Storage,
  pool: RenderPool,
  signal: AbortSignal,
): Promise<void> {
  const { runs, masters, sets, outputs } = database;
  const run = await runs.findByPk(runId);
  const master = await masters.findByPk(masterId);
  const set = run && (await sets.findByPk(run.setId));
  if (!run || !master?.facts || !set || run.state !== 'running') return;
  const rows = await outputs.findAll({ where: { runId, masterId, state: ['planned', 'running'] }, order: [['position', 'ASC']] });
  const tell = (id: string) => notify(database.sequelize, { about: 'outputs', setId: set.id, ids: [id] });
  // Writes follow one another, so that "running" never overtakes "done".
  let writing = Promise.resolve();
  const write = (id: string, change: Parameters<OutputRow['update']>[0]) => {
    const row = rows.find((candidate) => candidate.id === id);
    writing = writing.then(async () => {
      await row?.update(change);
      await tell(id);
    });
    writing.catch(() => {}); // awaited below
  };
  const treatment = treatmentOf(master);
  const job: MasterJob = {
    ...{
      master: storage.placeOf(master),
      facts: treatedFacts(MasterFacts.parse(master.facts), treatment),
      target: storage.outputs(set),
    },
    studio: StudioDetails.parse((await database.studio.findByPk(1))?.details ?? {}),
    outputs: await Promise.all(rows.map((row) => taskOf(database, row, treatment))),
  };
  const changed = await changedOnMachine(master);
  if (changed) for (const { id } of rows) write(id, { state: 'failed', error: changed, finishedAt: new Date() });
  else if (rows.length)
    await pool.render(
      job,
      (id) => write(id, { state: 'running' }),
      (result) => write(result.id, changeOf(result, rows)),
      signal,
    );
  await writing;
  if (signal.aborted) await cancelRest(database, rows, tell);
  await finishRun(database, runId);
}

/** What was planned was planned for the file as it was when it was read. */
async function changedOnMachine({ sourcePath, sourceMtimeMs, bytes, fileName: file }: MasterRow): Promise<Problem | null> {
  if (sourcePath === null) return null;
  const now = await stat(sourcePath).catch(() => null);
  if (!now) return { code: 'missing', file, message: 'The file is not there any more. Put it back, then run again.' };
  if (now.mtimeMs === sourceMtimeMs && now.size === Number(bytes)) return null;
  return { code: 'master-changed', file, message: 'The file has changed since it was brought in. Open the set once more, then run again.' };
}

type Planned = MasterJob['outputs'][number]['planned'];

/** A plain object: rows of the database cannot be passed to a thread. */
const plain = ({ folder, fileName, width, height, replaces }: Planned): Planned => ({ folder, fileName, width, height, replaces });

async function taskOf(database: Database, row: OutputRow, treatment: Treatment): Promise<MasterJob['outputs'][number]> {
  const preset = treatedPreset(await presetOf(database, row), treatment);
  // A watermark that was taken away while the run waited is still there for it.
  const mark = preset.mark && (await database.watermarks.findByPk(preset.mark.watermark));
  return { id: row.id, preset, planned: plain(row), watermark: mark && drawable(mark) };
}

async function presetOf({ presetVersions }: Database, { presetId, presetVersion }: OutputRow): Promise<Preset> {
  const version = await presetVersions.findOne({ where: { presetId, version: presetVersion } });
  return Preset.parse(version?.body);
}

function changeOf(result: OutputResult, rows: readonly OutputRow[]) {
  const finishedAt = new Date();
  if (result.status === 'failed') return { state: 'failed' as const, error: result.error, finishedAt };
  const { width, height, bytes, quality, measures } = result;
  const planned = rows.find(({ id }) => id === result.id)?.warnings ?? [];
  const warnings = [...planned, ...result.warnings];
  return { state: 'done' as const, width, height, bytes, quality, measures, warnings, error: null, finishedAt };
}

/** Work that a cancelled run had handed out but not begun. A worker that only shuts down leaves it to the next. */
async function cancelRest({ runs, outputs }: Database, rows: readonly OutputRow[], tell: (id: string) => Promise<void>): Promise<void> {
  const run = rows[0] && (await runs.findByPk(rows[0].runId));
  if (run?.state !== 'cancelled') throw new Error('The worker was asked to stop; the job goes back to the queue.');
  for (const { id } of rows) {
    const [changed] = await outputs.update({ state: 'cancelled' }, { where: { id, state: ['planned', 'running'] } });
    if (changed) await tell(id);
  }
}
