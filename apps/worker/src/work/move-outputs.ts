import { extname } from 'node:path';
import { type Problem, problemOf } from '@rundle/core';
import {
  type Claim,
  dueMoves,
  finishClaim,
  type JobOf,
  type JournalMove,
  markTaken,
  notify,
  offerRun,
  type OutputPlace,
  type Settled,
  settleMoves,
} from '@rundle/store';
import { type Context, inDatabase, logFailure } from '../context';
import { faultPoint } from '../fault-point';
import { finishRun } from './finish-run';

/** Another attempt has the journal now. */
class Superseded extends Error {}

/**
 * Carries out what a journal says of files: all are taken from their places before the first gets a new one, so that names can be swapped. At
 * whatever point it is cut off, it goes on from what is on record and on the disk: nothing is lost, and nothing of anybody else's is touched.
 */
export async function moveOutputsJob(context: Context, claim: Claim, { journal, runId }: JobOf<'move-outputs'>): Promise<void> {
  const { database } = context;
  const moves = await inDatabase(context, () => dueMoves(database.sequelize, journal));
  const settled = await carryOut(context, claim, moves).catch((error: unknown) => {
    if (error instanceof Superseded) return null;
    throw error;
  });
  if (settled === null) return;
  faultPoint('moved-all');
  await inDatabase(context, () =>
    database.sequelize.transaction(async (transaction) => {
      if (!(await finishClaim(database.sequelize, claim, transaction))) return;
      await settleMoves(database.sequelize, settled, transaction);
      const run = runId === undefined ? null : await database.runs.findByPk(runId, { transaction });
      const setId = moves[0]?.setId;
      if (setId) await notify(database.sequelize, { about: 'outputs', setId, ids: settled.map(({ move }) => move.outputId) }, transaction);
      if (run === null) return;
      await offerRun(database.sequelize, run.id, transaction);
      await finishRun(context, run.id, transaction);
    }),
  );
}

async function carryOut(context: Context, claim: Claim, moves: readonly JournalMove[]): Promise<Settled[]> {
  const { database, files } = context;
  const open = moves.filter(({ state }) => state === 'open');
  const gone = new Set<JournalMove>();
  const settled: Settled[] = [];
  for (const move of open) {
    await stillOurs(context, claim);
    const { from, to, outputId, content } = move;
    if (!(await files.outputs.take(from, outputId, content, (to ?? from).target))) {
      gone.add(move);
      // As in a database that was brought back from a moment before: what it speaks of has been done.
      if (to !== null && (await files.outputs.holds(to, content))) settled.push({ move, at: { ...to, mark: null } });
    }
    faultPoint('taken');
  }
  await stillOurs(context, claim);
  await inDatabase(context, () =>
    markTaken(
      database.sequelize,
      open.filter((move) => !gone.has(move)).map(({ id }) => id),
      [...gone].filter((move) => !settled.some((one) => one.move === move)).map(({ id }) => id),
    ),
  );
  faultPoint('all-taken');
  for (const move of moves.filter((one) => !gone.has(one))) {
    await stillOurs(context, claim);
    const { outputId, from, to } = move;
    if (to === null) {
      await files.outputs.dropTaken(outputId, from.target);
      settled.push({ move, at: null });
    } else {
      const at = await put(context, move, to);
      if (at) settled.push({ move, at });
    }
    faultPoint('put');
  }
  return settled;
}

/** Puts a file where it belongs; where a stranger's has come there meanwhile, back where it was, or as near to that as there is room. */
async function put({ files, log }: Context, { outputId, content, from }: JournalMove, to: OutputPlace): Promise<Settled['at']> {
  for (let copy = 0; ; copy++) {
    const place = copy === 0 ? to : { ...from, target: to.target, fileName: copy === 1 ? from.fileName : numbered(from.fileName, copy) };
    try {
      const put = await files.outputs.putTaken(outputId, place, content);
      if (put) return { ...place, mark: put.mark };
      // It was put in its place by an attempt that was cut off then; or it was taken from where it lay, by somebody else.
      if (await files.outputs.holds(place, content)) return { ...place, mark: null };
      if (copy > 1) return null;
    } catch (error) {
      const problem: Problem = problemOf(error);
      if (problem.code !== 'exists') throw error;
      logFailure(log, `moving to ${place.fileName}`)(error);
    }
  }
}

const numbered = (fileName: string, copy: number): string => {
  const extension = extname(fileName);
  return `${fileName.slice(0, fileName.length - extension.length)}-${copy}${extension}`;
};

/** @throws Superseded when a newer attempt has the work: a program that was stopped for long touches nothing any more */
async function stillOurs(context: Context, { key, attempt }: Claim): Promise<void> {
  const { sequelize } = context.database;
  const [rows] = await inDatabase(context, () =>
    sequelize.query('SELECT 1 FROM work WHERE key = :key AND attempt = :attempt', { replacements: { key, attempt } }),
  );
  if (rows.length === 0) throw new Superseded();
}
