import type { Move } from '@rundle/core';
import { QueryTypes, type Sequelize, type Transaction } from 'sequelize';
import type { OutputPlace } from '../files/outputs';
import { addJobs } from '../work/queue';
import { MOVES_OPEN } from './moves-open';

/** A line of the journal. */
export interface JournalMove {
  id: string;
  setId: string;
  outputId: string;
  /** SHA-256 of the file, as long as nobody has changed it. */
  content: string;
  from: OutputPlace;
  /** Null: it is taken away. */
  to: OutputPlace | null;
  state: 'open' | 'taken';
}

/**
 * Writes down what becomes of files, in the transaction that decides it; a worker carries it out. What is to be done last waits for the end of
 * its run.
 * @param runId the run that it belongs to; null: it belongs to none
 */
export async function writeMoves(
  sequelize: Sequelize,
  { journal, runId, setId }: { journal: string; runId: string | null; setId: string },
  moves: readonly Pick<Move, 'file' | 'to' | 'when' | 'afterSelf'>[],
  transaction: Transaction,
): Promise<void> {
  if (moves.length === 0) return;
  const rows = moves.map(({ file, to, when, afterSelf }) => ({ output: file.outputId, to, stage: when, after: afterSelf }));
  await sequelize.query(
    `INSERT INTO moves (journal, run_id, set_id, output_id, content, is_current, from_target, from_folder, from_name, to_target, to_folder, to_name, stage, after_self)
     SELECT :journal, :runId, :setId, o.id, o.content, o.is_current, o.target, o.folder, o.file_name,
       row->'to'->>'target', row->'to'->>'folder', row->'to'->>'fileName', row->>'stage', (row->>'after')::boolean
     FROM jsonb_array_elements(:rows::jsonb) AS rows(row) JOIN outputs o ON o.id = (row->>'output')::uuid WHERE o.content IS NOT NULL`,
    { transaction, replacements: { journal, runId, setId, rows: JSON.stringify(rows) } },
  );
  if (moves.some(({ when }) => when === 'first')) await addMoving(sequelize, journal, runId, transaction);
}

const addMoving = (sequelize: Sequelize, journal: string, runId: string | null, transaction: Transaction): Promise<void> =>
  addJobs(sequelize, transaction, 'move-outputs', [{ journal, ...(runId === null ? {} : { runId }) }]);

/** Has what was to be done last carried out for runs of which nothing is left to make. @param which condition on the run `r` */
export async function addLastMoves(sequelize: Sequelize, which: string, replacements: object, transaction: Transaction): Promise<void> {
  const runs = await sequelize.query<{ id: string }>(
    `SELECT r.id FROM runs r WHERE r.state = 'running' AND ${MOVES_OPEN} ${which}
       AND NOT EXISTS (SELECT FROM outputs o WHERE o.run_id = r.id AND o.state IN ('planned', 'running'))
       AND NOT EXISTS (SELECT FROM work w WHERE w.key = 'move-outputs:' || r.id)`,
    { type: QueryTypes.SELECT, replacements: replacements as Record<string, string>, transaction },
  );
  for (const { id } of runs) await addMoving(sequelize, id, id, transaction);
}

/**
 * What of a journal is to be carried out now. What will not be is crossed out: of a run that was cancelled all that has not been begun, but for
 * files whose newer selves have been made.
 */
export async function dueMoves(sequelize: Sequelize, journal: string): Promise<JournalMove[]> {
  const replacements = { journal };
  await sequelize.query(
    `DELETE FROM moves m USING runs r WHERE m.journal = :journal AND r.id = m.run_id AND m.state = 'open' AND (
       m.stage = 'first' AND r.cancel_asked_at IS NOT NULL AND NOT EXISTS (SELECT FROM moves b WHERE b.journal = m.journal AND b.state <> 'open')
       OR m.stage = 'last' AND NOT m.after_self AND r.cancel_asked_at IS NOT NULL
       OR m.stage = 'last' AND ${NOTHING_TO_MAKE} AND m.after_self AND NOT EXISTS (
         SELECT FROM outputs o JOIN outputs s ON s.run_id = m.run_id AND s.master_id = o.master_id AND s.preset_id = o.preset_id
           AND s.part = o.part AND s.state = 'done' WHERE o.id = m.output_id))`,
    { replacements },
  );
  const rows = await sequelize.query<Omit<JournalMove, 'from' | 'to'> & Record<string, string>>(
    `SELECT m.id, m.set_id AS "setId", m.output_id AS "outputId", m.content, m.state, m.from_target AS ft, m.from_folder AS ff, m.from_name AS fn,
       m.to_target AS tt, m.to_folder AS tf, m.to_name AS tn
     FROM moves m LEFT JOIN runs r ON r.id = m.run_id
     WHERE m.journal = :journal AND m.state <> 'settled' AND (m.stage = 'first' OR ${NOTHING_TO_MAKE}) ORDER BY m.id`,
    { type: QueryTypes.SELECT, replacements },
  );
  return rows.map(({ id, setId, outputId, content, state, ft, ff, fn, tt, tf, tn }) => ({
    id,
    setId,
    outputId,
    content,
    state,
    from: { target: ft!, folder: ff!, fileName: fn! },
    to: tt === null ? null : { target: tt!, folder: tf!, fileName: tn! },
  }));
}

const NOTHING_TO_MAKE = `NOT EXISTS (SELECT FROM outputs w WHERE w.run_id = m.run_id AND w.state IN ('planned', 'running'))`;

/** Writes down that files have been taken from their places. Those that were not there any more are crossed out. */
export async function markTaken(sequelize: Sequelize, taken: readonly string[], gone: readonly string[]): Promise<void> {
  await sequelize.transaction(async (transaction) => {
    await sequelize.query(`UPDATE moves SET state = 'taken' WHERE id IN (SELECT jsonb_array_elements_text(:taken::jsonb)::uuid)`, {
      transaction,
      replacements: { taken: JSON.stringify(taken) },
    });
    await sequelize.query(`DELETE FROM moves WHERE id IN (SELECT jsonb_array_elements_text(:gone::jsonb)::uuid)`, {
      transaction,
      replacements: { gone: JSON.stringify(gone) },
    });
  });
}

/** Where a file came to stand. */
export interface Settled {
  move: JournalMove;
  /** Null: it is gone. */
  at: (OutputPlace & { mark: string | null }) | null;
}

/**
 * Writes down where files stand now, all at once: whose place is whose is cleared and set anew in one transaction, so that nobody sees one file
 * under another's name. Deliveries know where they lie now, too.
 */
export async function settleMoves(sequelize: Sequelize, settled: readonly Settled[], transaction: Transaction): Promise<void> {
  const rows = settled.map(({ move, at }) => ({ id: move.id, output: move.outputId, ...(at ?? { target: null }) }));
  const within = { transaction, replacements: { rows: JSON.stringify(rows) } };
  const ROWS = `jsonb_to_recordset(:rows::jsonb) AS row(id uuid, output uuid, target text, folder text, "fileName" text, mark text)`;
  await sequelize.query(`UPDATE outputs o SET is_newest = false, is_current = false FROM ${ROWS} WHERE o.id = row.output`, within);
  // What was on record for a place, and had gone from it.
  await sequelize.query(
    `UPDATE outputs o SET is_newest = false, is_current = false FROM ${ROWS}
     WHERE o.is_newest AND o.target = row.target AND o.folder = row.folder AND o.file_name = row."fileName" AND o.id <> row.output`,
    within,
  );
  await sequelize.query(
    `UPDATE outputs o SET target = row.target, folder = row.folder, file_name = row."fileName", mark = row.mark, is_newest = true, is_current = m.is_current
     FROM ${ROWS} JOIN moves m ON m.id = row.id WHERE o.id = row.output AND row.target IS NOT NULL`,
    within,
  );
  await sequelize.query(
    `UPDATE delivery_files d SET target = row.target, folder = row.folder, file_name = row."fileName" FROM ${ROWS}
     WHERE d.output_id = row.output AND row.target IS NOT NULL`,
    within,
  );
  await sequelize.query(`UPDATE moves m SET state = 'settled' FROM ${ROWS} WHERE m.id = row.id`, within);
}
