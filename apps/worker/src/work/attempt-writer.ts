import type { Problem } from '@rundle/core';
import { FILES_STAND_LOCK, type OutputRow, TELL, toldAs } from '@rundle/store';
import { QueryTypes } from 'sequelize';
import { type Context, inDatabase } from '../context';

/** What is known of a finished file before it is put in its place. */
export type FinishedFile = Pick<OutputRow, 'content' | 'width' | 'height' | 'bytes' | 'quality' | 'measures' | 'warnings' | 'ms'>;

/** The column that each is kept in, and as what. */
const COLUMNS = {
  state: 'state = :state',
  content: 'content = :content',
  width: 'width = :width',
  height: 'height = :height',
  bytes: 'bytes = :bytes',
  quality: 'quality = :quality',
  measures: 'measures = :measures::jsonb',
  warnings: 'warnings = :warnings::jsonb',
  ms: 'ms = :ms',
  error: 'error = :error::jsonb',
  mark: 'mark = :mark',
} as const;
const AS_JSON = ['measures', 'warnings', 'error'];

type Change = Partial<Pick<OutputRow, keyof typeof COLUMNS>> & Pick<OutputRow, 'state'>;

/** Of an output that has come to its end, beside what is told of it. */
const ENDED = 'finished_at = now()';
/** Of one whose file stands in its place. */
const STANDS_NOW = `${ENDED}, is_newest = true, is_current = true`;

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
    return this.write(id, { state: 'running' });
  }

  /** To be written before the file is put in its place: whoever finds it there then knows it. */
  finished(id: string, finished: FinishedFile): Promise<boolean> {
    return this.write(id, { state: 'running', ...finished }, { before: STANDS });
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
    return this.write(id, { state: 'done', error: null, mark }, { before: SUPERSEDE, and: STANDS_NOW });
  }

  failed(id: string, error: Problem): Promise<boolean> {
    return this.write(id, { state: 'failed', error, content: null }, { and: ENDED });
  }

  cancelled(id: string): Promise<boolean> {
    return this.write(id, { state: 'cancelled', content: null });
  }

  /**
   * All in one call, which is one transaction: a picture is written about three times, and each call costs as much as what it says.
   * @param how statements that come before it, and columns that are set beside those of the change
   * @returns whether the state is set now; false: a newer attempt owns the output
   */
  private write(id: string, change: Change, { before, and }: { before?: string; and?: string } = {}): Promise<boolean> {
    const { sequelize, outputs } = this.context.database;
    const { attempt, setId } = this;
    this.context.log.debug({ output: id, set: setId, attempt, content: change.content }, `output ${change.state}`);
    const keys = Object.keys(change) as (keyof Change)[];
    const set = [...keys.map((key) => COLUMNS[key]), ...(and ? [and] : [])].join(', ');
    const valueOf = (key: keyof Change) => (AS_JSON.includes(key) && change[key] ? JSON.stringify(change[key]) : change[key]);
    const statement = `${before ? `${before};` : ''}
      WITH changed AS (UPDATE outputs SET ${set} WHERE id = :id AND attempt = :attempt AND state IN ('planned', 'running')
        AND EXISTS (SELECT 1 FROM runs r WHERE r.id = outputs.run_id AND r.state IN ('running', 'paused')) RETURNING id)
      SELECT id, ${TELL} FROM changed`;
    const replacements = {
      id,
      attempt,
      ...Object.fromEntries(keys.map((key) => [key, valueOf(key)])),
      ...toldAs({ about: 'outputs', setId, ids: [id] }),
    };
    return inDatabase(this.context, async () => {
      const rows = await sequelize.query<{ id?: string }>(statement, { type: QueryTypes.SELECT, replacements });
      if (rows.some((row) => row.id === id)) {
        if (change.state === 'failed') this.context.tally.couldNot();
        return true;
      }
      // Asked again after the connection broke, it may have been written the first time.
      return (await outputs.count({ where: { id, attempt, state: change.state } })) > 0;
    });
  }
}
