import type { Problem } from '@rundle/core';
import { FILES_STAND_LOCK, notify, type OutputRow } from '@rundle/store';
import { literal, Op } from 'sequelize';
import { type Context, inDatabase } from '../context';

/** What is known of a finished file before it is put in its place. */
export type FinishedFile = Pick<OutputRow, 'content' | 'width' | 'height' | 'bytes' | 'quality' | 'measures' | 'warnings' | 'ms'>;

/** States from which an output can still go on. */
const OPEN: OutputRow['state'][] = ['planned', 'running'];

const RUN_GOES_ON = literal(`EXISTS (SELECT 1 FROM runs r WHERE r.id = outputs.run_id AND r.state IN ('running', 'paused'))`);

/** Takes its place from whoever had it, and makes what was made before of its part an older one, on the condition on which the output gets both. */
const SUPERSEDE = `UPDATE outputs old SET is_current = false,
    is_newest = old.is_newest AND NOT (old.target = o.target AND old.folder = o.folder AND old.file_name = o.file_name)
  FROM outputs o JOIN runs r ON r.id = o.run_id
  WHERE o.id = :id AND o.attempt = :attempt AND o.state IN ('planned', 'running') AND r.state IN ('running', 'paused')
    AND (old.is_newest AND old.target = o.target AND old.folder = o.folder AND old.file_name = o.file_name
      OR old.is_current AND old.master_id = o.master_id AND old.preset_id = o.preset_id AND old.part = o.part)`;

/** A backup that looks at what lies in its place is waited for: from here on the file may be put there. */
const STANDS = `SELECT pg_advisory_xact_lock_shared(${FILES_STAND_LOCK})`;

/**
 * Writes about outputs on behalf of one attempt. The conditions are in the statements themselves: only the newest attempt writes, what
 * has ended stays as it is, and so does a run that has ended.
 */
export class AttemptWriter {
  constructor(
    private readonly context: Context,
    private readonly setId: string,
    private readonly attempt: number,
  ) {}

  begun(id: string): Promise<boolean> {
    return this.write(id, { state: 'running' }, OPEN);
  }

  /** To be written before the file is put in its place: whoever finds it there then knows it. */
  finished(id: string, finished: FinishedFile): Promise<boolean> {
    return this.write(id, { state: 'running', ...finished }, OPEN, STANDS);
  }

  /** What stands at its place is not what was made there any more: it counts as a stranger from now on. */
  async disown(row: OutputRow): Promise<void> {
    const { target, folder, fileName } = row;
    await inDatabase(this.context, () =>
      this.context.database.outputs.update({ isNewest: false, isCurrent: false }, { where: { target, folder, fileName, isNewest: true } }),
    );
  }

  /** From now on the file at its place is its own, and no earlier output's any more. @param mark by which the file is known to be unchanged later */
  done(id: string, mark: string | null): Promise<boolean> {
    return this.write(id, { state: 'done', error: null, finishedAt: new Date(), mark, isNewest: true, isCurrent: true }, OPEN, SUPERSEDE);
  }

  failed(id: string, error: Problem): Promise<boolean> {
    return this.write(id, { state: 'failed', error, content: null, finishedAt: new Date() }, OPEN);
  }

  cancelled(id: string): Promise<boolean> {
    return this.write(id, { state: 'cancelled', content: null }, OPEN);
  }

  /** @returns whether the state is set now; false: a newer attempt owns the output */
  private write(
    id: string,
    change: Partial<OutputRow> & Pick<OutputRow, 'state'>,
    from: OutputRow['state'][],
    before: string | null = null,
  ): Promise<boolean> {
    const { sequelize, outputs } = this.context.database;
    const { attempt, setId } = this;
    this.context.log.debug({ output: id, set: setId, attempt, content: change.content }, `output ${change.state}`);
    return inDatabase(this.context, () =>
      sequelize.transaction(async (transaction) => {
        if (before) await sequelize.query(before, { transaction, replacements: { id, attempt } });
        const where = { id, attempt, state: from, [Op.and]: RUN_GOES_ON };
        const [changed] = await outputs.update(change, { where, transaction });
        if (changed) await notify(sequelize, { about: 'outputs', setId, ids: [id] }, transaction);
        // Asked again after the connection broke, it may have been written the first time.
        return changed > 0 || (await outputs.count({ where: { id, attempt, state: change.state }, transaction })) > 0;
      }),
    );
  }
}
