import { basename, extname } from 'node:path';
import {
  type Finding,
  houseFindings,
  HouseRules,
  isHouseCode,
  judgedAs,
  MasterFacts,
  Preset,
  type Problem,
  makingOf,
  partPreset,
  problemOf,
  StudioDetails,
  carriedFacts,
  chosenPage,
  type Decisions,
  varied,
  writeProblem,
} from '@rundle/core';
import { sha256Of } from '@rundle/place';
import type { MasterJob, OutputResult } from '@rundle/render';
import {
  AttemptOver,
  type Claim,
  drawableMark,
  type JobOf,
  lookAt,
  pageOf,
  type MasterRow,
  type OutputRow,
  recipeHash,
  type RunRow,
  decisionsOf,
} from '@rundle/store';
import { Op, QueryTypes } from 'sequelize';
import { type Context, inDatabase, logFailure } from '../context';
import { faultPoint } from '../fault-point';
import { AttemptWriter } from './attempt-writer';
import { finishRun } from './finish-run';
import { keepSalience, nullForProblem } from './see-master';
import { settleFound } from './take-over';

/**
 * Makes all outputs that a run still wants of one master. Each result is written down as it comes, so that an attempt that goes on
 * after a crash does only what is left.
 * @param stop ends the work between two outputs
 */
export async function renderMasterJob(context: Context, claim: Claim, job: JobOf<'render-master'>, stop: AbortSignal): Promise<void> {
  const { runId, masterId } = job;
  const { database } = context;
  const { runs, masters, outputs } = database;
  const { run, master, rows } = await inDatabase(context, async () => ({
    run: await runs.findByPk(runId),
    master: await masters.findByPk(masterId),
    rows: await outputs.findAll({
      where: { runId, masterId, state: ['planned', 'running'], attempt: claim.attempt },
      order: [['position', 'ASC']],
    }),
  }));
  // Paused since it was claimed: it goes back, for when the run goes on.
  if (run?.state === 'paused') throw new Interrupted();
  if (run?.state === 'running' && master?.facts && rows.length) await render(context, claim, job, { run, master, rows }, stop);
  await inDatabase(context, () => complete(context, claim, job, run?.state === 'running'));
}

/** Completes the work unless something is left to make of the picture, and tells whether anything is left of its run. */
const COMPLETE = `WITH open AS (
    SELECT EXISTS (SELECT FROM outputs WHERE run_id = :runId AND master_id = :masterId AND state IN ('planned', 'running')) AND :isRunning AS of_master
  ), mine AS (DELETE FROM work WHERE key = :key AND attempt = :attempt AND NOT (SELECT of_master FROM open) RETURNING key)
  SELECT of_master AS "ofMaster", EXISTS (SELECT FROM outputs WHERE run_id = :runId AND state IN ('planned', 'running')) AS "ofRun",
    EXISTS (SELECT FROM work WHERE key = :key AND attempt = :attempt) AS "isOurs" FROM open LEFT JOIN mine ON true`;

/** In one call of the database; only the last picture of a run ends that, too. Cut off in between, the run is ended by whoever looks after all runs. */
async function complete(context: Context, claim: Claim, job: JobOf<'render-master'>, isRunning: boolean): Promise<void> {
  const { sequelize } = context.database;
  const { key, attempt } = claim;
  const [found] = await sequelize.query<{ ofMaster: boolean; ofRun: boolean; isOurs: boolean }>(COMPLETE, {
    type: QueryTypes.SELECT,
    replacements: { key, attempt, runId: job.runId, masterId: job.masterId, isRunning },
  });
  if (!found?.isOurs) return;
  // Not completed then: outputs without a final state are tried again.
  if (found.ofMaster) throw new Error('Outputs came to no end.');
  if (!found.ofRun) await sequelize.transaction((transaction) => finishRun(context, job.runId, transaction));
}

interface Rows {
  run: RunRow;
  master: MasterRow;
  rows: OutputRow[];
}

async function render(context: Context, claim: Claim, job: JobOf<'render-master'>, { run, master, rows }: Rows, stop: AbortSignal) {
  const { database } = context;
  const writer = new AttemptWriter(context, run.setId, claim.attempt);
  const open = await settleFound(context, claim, rows);
  if (run.cancelAskedAt) return cancelAll(writer, open);
  const decisions = job.overrides ?? decisionsOf(master);
  // What is known of it is, or may be, of another page than this run is about.
  const isTurning = master.state === 'arriving' && MasterFacts.parse(master.facts).pages > 1;
  const isAnother = isTurning || chosenPage(decisions.page) !== pageOf(master);
  const made = isAnother
    ? { code: 'master-changed' as const, message: ANOTHER_PAGE, file: master.fileName }
    : await jobOf(context, claim, { run, master, rows: open }, decisions);
  if ('code' in made) {
    for (const { id } of open) await writer.failed(id, made);
    return;
  }
  try {
    await renderJob(context, writer, made.job, { run, fileName: master.fileName, rows: open }, stop);
  } finally {
    await made.release();
  }
  if (!stop.aborted) return;
  const now = await inDatabase(context, () => database.runs.findByPk(run.id));
  if (!now?.cancelAskedAt) throw new Interrupted();
  await cancelAll(writer, open);
}

const ANOTHER_PAGE = 'Another page of it was chosen after the run had begun. Run it again.';

interface Rendering {
  run: RunRow;
  /** Of the master, for messages. */
  fileName: string;
  rows: readonly OutputRow[];
}

async function renderJob(context: Context, writer: AttemptWriter, job: MasterJob, rendering: Rendering, stop: AbortSignal): Promise<void> {
  const { run, fileName, rows } = rendering;
  // What is written follows one another, so that "running" never overtakes "done".
  let writing = Promise.resolve();
  const then = (write: () => Promise<unknown>) => {
    writing = writing.then(async () => {
      await write();
    });
    writing.catch(() => {}); // awaited below
  };
  let since = performance.now();
  let stageSince = since;
  await context.pool.render(
    job,
    (id, stage) => {
      faultPoint(stage);
      const now = performance.now();
      if (stage !== 'begun') context.tally.stage(stage, (now - stageSince) / 1000);
      stageSince = now;
      if (stage === 'begun') then(() => writer.begun(id));
    },
    (result) => {
      // What a worker was busy with since the result before: the first output pays for decoding.
      const ms = Math.round(performance.now() - since);
      since = performance.now();
      // The engine knows the master by its path, which people do not; what is about the output names that.
      const isOfMaster = result.status === 'failed' && result.error.file === basename(job.master);
      const named = isOfMaster ? { ...result, error: { ...result.error, file: fileName } } : result;
      then(() => settle(context, writer, named, rows, job, run.house ?? null, ms));
    },
    stop,
  );
  await writing;
}

/** The program was told to end: the work goes back to the queue and its attempts are not counted. */
export class Interrupted extends Error {
  constructor() {
    super('The worker was told to end; its work goes back to the queue.');
    this.name = 'Interrupted';
  }
}

/** Writes down what came of an output, and puts its file in place: in an order in which a crash at any point can be made good. */
async function settle(
  context: Context,
  writer: AttemptWriter,
  result: OutputResult,
  rows: readonly OutputRow[],
  job: MasterJob,
  house: HouseRules | null,
  ms: number,
): Promise<void> {
  const { files } = context;
  const row = rows.find(({ id }) => id === result.id);
  if (!row) return;
  if (result.status === 'failed') {
    const to = job.outputs.find(({ id }) => id === row.id)?.to;
    // It stays open, and with it the work, which is done again in a new folder.
    if (to !== undefined && (await files.outputs.hasVanished(to))) return;
    await writer.failed(row.id, result.error);
    return;
  }
  const { width, height, bytes, quality, measures, path } = result;
  try {
    const content = await sha256Of(path);
    faultPoint('hashed');
    const warnings = [...row.warnings.filter(({ code }) => !isHouseCode(code)), ...result.warnings, ...houseWarnings(result, job, house)];
    const isOurs = await writer.finished(row.id, { content, width, height, bytes, quality, measures, warnings, ms });
    if (!isOurs) return;
    faultPoint('recorded');
    const mark = await files.outputs.commit({ path, content }, row, row.replaces, await contentsOnRecord(context, row));
    faultPoint('moved');
    if (await writer.done(row.id, mark)) context.tally.made(bytes);
    faultPoint('done');
  } catch (error) {
    if (error instanceof AttemptOver) return;
    // The folder of unfinished files may have vanished between the check and here.
    if (problemOf(error).code === 'not-ours') await writer.disown(row);
    await writer.failed(row.id, problemOf(writeProblem(error, row.fileName), 'not-written'));
  }
}

/** What was made at the place of an output: nothing else may be replaced. */
async function contentsOnRecord({ database, files }: Context, { target, folder, fileName, replaces }: OutputRow): Promise<string[]> {
  if (!replaces) return [];
  const where = { target, folder, fileName, isNewest: true };
  const rows = await database.outputs.findAll({ where });
  // Of the first releases the content is not on record before it has been looked at.
  if (rows.every(({ content }) => content !== null)) return rows.flatMap(({ content }) => content ?? []);
  await lookAt(database.sequelize, files.outputs, rows);
  return (await database.outputs.findAll({ where, attributes: ['content'] })).flatMap(({ content }) => content ?? []);
}

/** What the receiver says to the file as it is; until it was made, only its expected weight was known. */
function houseWarnings(result: Extract<OutputResult, { status: 'done' }>, job: MasterJob, house: HouseRules | null): Finding[] {
  const preset = job.outputs.find(({ id }) => id === result.id)?.making.preset;
  return house && preset
    ? houseFindings(HouseRules.parse(house), result, { bytes: result.bytes, expected: false }, judgedAs(preset, job.facts))
    : [];
}

/** What a cancelled run had handed out but not begun. */
async function cancelAll(writer: AttemptWriter, rows: readonly OutputRow[]): Promise<void> {
  for (const { id } of rows) await writer.cancelled(id);
}

/** The job as the engine takes it, with what ends it, or why there can be none. */
async function jobOf(
  context: Context,
  { attempt }: Claim,
  { run, master, rows }: Rows,
  decisions: Decisions,
): Promise<{ job: MasterJob; release: () => Promise<void> } | Problem> {
  const { files } = context;
  const opened: (() => Promise<void>)[] = [];
  const release = async () => {
    for (const close of opened) await close().catch(logFailure(context.log, 'closing a file'));
  };
  try {
    const { path, close } = await files.masters.bring(master);
    opened.push(close);
    const known = carriedFacts(MasterFacts.parse(master.facts), decisions);
    const details = run.studio ?? (await inDatabase(context, () => context.database.studio.findByPk(1)))?.details ?? {};
    const studio = StudioDetails.parse(details);
    const presets = await inDatabase(context, () => presetsOf(context, rows, run.once));
    const facts = await withSalience(context, { master, facts: known, rows, presets, studio, decisions }, path);
    const outputs: MasterJob['outputs'] = [];
    for (const row of rows) {
      const task = await inDatabase(context, () => taskOf(context, row, facts, decisions, presets.get(row.id)!));
      const to = await files.outputs.workFile(row.target, row.id, attempt, extname(row.fileName));
      opened.push(() => files.outputs.release(to));
      outputs.push({ ...task, to });
    }
    const job: MasterJob = {
      master: path,
      content: master.sha256 ?? master.id,
      modified: master.sourceMtimeMs ?? null,
      facts,
      studio,
      outputs,
    };
    return { job, release };
  } catch (error) {
    await release();
    if (error instanceof Error && 'problem' in error) return problemOf(error);
    throw error;
  }
}

/** Versions of presets as they were read first: they never change, and every picture of a run asks for the same. */
const versionsRead = new Map<string, Preset>();
const MOST_VERSIONS = 200;

/** The preset of each output, by the output's id, as its run has it. */
async function presetsOf({ database }: Context, rows: readonly OutputRow[], once: RunRow['once']): Promise<Map<string, Preset>> {
  const keyOf = (id: string, version: number) => `${id} ${version}`;
  if (versionsRead.size > MOST_VERSIONS) versionsRead.clear();
  const wanted = rows.filter(({ presetId, presetVersion }) => !versionsRead.has(keyOf(presetId, presetVersion)));
  if (wanted.length) {
    const versions = await database.presetVersions.findAll({
      where: { [Op.or]: wanted.map(({ presetId, presetVersion }) => ({ presetId, version: presetVersion })) },
    });
    for (const { presetId, version, body } of versions) versionsRead.set(keyOf(presetId, version), Preset.parse(body));
  }
  return new Map(
    rows.map(({ id, presetId, presetVersion, part }) => {
      const preset = versionsRead.get(keyOf(presetId, presetVersion));
      if (!preset) throw new Error(`Version ${presetVersion} of preset ${presetId} is not there.`);
      return [id, partPreset(varied(preset, once[presetId]), part)];
    }),
  );
}

/** A master on its way into outputs. */
interface Carried {
  master: MasterRow;
  facts: MasterFacts;
  rows: readonly OutputRow[];
  presets: ReadonlyMap<string, Preset>;
  studio: StudioDetails;
  decisions: Decisions;
}

/**
 * The facts of a master with what draws the eye in it, where an output is cropped by that. A run that was begun before it was known gets it now, and
 * what tells its files apart is written down by what they become.
 */
async function withSalience(
  context: Context,
  { master, facts, rows, presets, studio, decisions }: Carried,
  path: string,
): Promise<MasterFacts> {
  const open = rows.filter(({ id, presetId }) => makingOf(facts, presets.get(id)!, presetId, decisions).cutBy === 'middle');
  if (open.length === 0) return facts;
  const salience = await context.pool.salience(path, facts).catch(nullForProblem);
  if (!salience) return facts; // what is wrong with it is told when it is rendered
  const whole = { ...facts, salience };
  const { database } = context;
  await inDatabase(context, () =>
    database.sequelize.transaction(async (transaction) => {
      await keepSalience(database, master, salience, transaction);
      for (const row of open) {
        const { preset } = makingOf(whole, presets.get(row.id)!, row.presetId, decisions);
        const shared = { preset, studio, watermark: row.madeOf?.watermark ?? null };
        await row.update({ recipe: recipeHash(shared, master.sha256 ?? '') }, { transaction });
      }
    }),
  );
  return whole;
}

async function taskOf(
  { database }: Context,
  row: OutputRow,
  facts: MasterFacts,
  decisions: Decisions,
  preset: Preset,
): Promise<Omit<MasterJob['outputs'][number], 'to'>> {
  const { id, fileName, presetId } = row;
  // A watermark that was deleted while the run waited is still there for it.
  const mark = preset.mark && (await database.watermarks.findByPk(preset.mark.watermark));
  return { id, fileName, making: makingOf(facts, preset, presetId, decisions), watermark: mark && drawableMark(mark) };
}
