import { QueryTypes, type Sequelize, type Transaction } from 'sequelize';
import { MOVES_FIRST } from '../outputs/moves-open';
import type { JobName } from './queue';

/** Deaths after which a picture is given up because it brings workers down. */
export const MOST_DEATHS = 3;
/** Deaths of other causes after which it is given up because it was interrupted too often. */
export const MOST_INTERRUPTIONS = 10;

/** A piece of work in the hands of one worker. */
export interface Claim {
  key: string;
  name: JobName;
  payload: unknown;
  /** Rises with every claim of any work. Whatever a worker writes is written only while this is the newest attempt. */
  attempt: number;
}

/**
 * Claims a piece of work, unless another worker has it, it is done, or its run is paused.
 * @param workerId who takes it; the same worker may take again what it held
 */
export async function claim(sequelize: Sequelize, key: string, workerId: string): Promise<Claim | null> {
  const [taken] = await take<Claim>(
    sequelize,
    `key = :key AND (worker_id IS NULL OR worker_id = :workerId) AND deaths < ${MOST_DEATHS} AND interruptions < ${MOST_INTERRUPTIONS}
     AND NOT EXISTS (SELECT 1 FROM runs r WHERE r.id = work.run_id AND (r.state = 'paused' OR work.name = 'render-master' AND ${MOVES_FIRST}))`,
    { key, workerId },
  );
  return taken ?? null;
}

/** What is open of a piece of work belongs to its newest attempt, too. @param more what else is told of what was taken */
async function take<C extends Claim>(
  sequelize: Sequelize,
  where: string,
  replacements: { workerId: string } & Record<string, string | number>,
  more = '',
): Promise<C[]> {
  const rows = await sequelize.query<Omit<C, 'attempt'> & { attempt: string }>(
    `WITH taken AS (
       UPDATE work SET attempt = nextval('attempts'), worker_id = :workerId WHERE ${where}
       RETURNING key, name, payload, attempt, run_id, master_id ${more}
     ), its_outputs AS (
       UPDATE outputs o SET attempt = t.attempt FROM taken t
       WHERE t.name = 'render-master' AND o.run_id = t.run_id AND o.master_id = t.master_id AND o.state IN ('planned', 'running')
     ) SELECT * FROM taken`,
    { type: QueryTypes.SELECT as const, replacements },
  );
  return rows.map((row) => ({ ...row, attempt: Number(row.attempt) }) as unknown as C);
}

/**
 * Completes work, inside the transaction that stores its result.
 * @returns false when a newer attempt has it: then nothing of this one may be written
 */
export async function finishClaim(sequelize: Sequelize, { key, attempt }: Claim, transaction: Transaction): Promise<boolean> {
  const rows = await sequelize.query(`DELETE FROM work WHERE key = :key AND attempt = :attempt RETURNING key`, {
    type: QueryTypes.SELECT as const,
    transaction,
    replacements: { key, attempt },
  });
  return rows.length > 0;
}

/** How a worker ended, as far as its supervisor could see. */
export type DeathCause = 'picture' | 'other';

/** Releases work without completing it. @param cause what it counts as against the work; null: nothing */
export async function letGo(sequelize: Sequelize, { key, attempt }: Claim, cause: DeathCause | null): Promise<void> {
  await sequelize.query(`UPDATE work SET worker_id = NULL, ${COUNTED} WHERE key = :key AND attempt = :attempt`, {
    replacements: { key, attempt, ...countsOf(cause) },
  });
}

const COUNTED = 'deaths = deaths + :death, interruptions = interruptions + :interruption';
const countsOf = (cause: DeathCause | null) => ({ death: cause === 'picture' ? 1 : 0, interruption: cause === 'other' ? 1 : 0 });

/**
 * Takes from a worker what it holds.
 * @param cause whether what it was working on may have brought it down; null: it is said to have stopped by itself
 * @returns the keys of what it held
 */
export async function takeFrom(sequelize: Sequelize, workerId: string, cause: DeathCause | null): Promise<string[]> {
  const rows = await sequelize.query<{ key: string }>(
    `UPDATE work SET worker_id = NULL, ${COUNTED} WHERE worker_id = :workerId RETURNING key`,
    { type: QueryTypes.SELECT, replacements: { workerId, ...countsOf(cause) } },
  );
  return rows.map(({ key }) => key);
}

export interface SpentWork extends Claim {
  reason: 'crashed' | 'interrupted';
}

/** Claims work that has used up its attempts, so that nobody begins it again while it is being given up. */
export async function claimSpent(sequelize: Sequelize, workerId: string): Promise<SpentWork[]> {
  return take<SpentWork>(
    sequelize,
    'worker_id IS NULL AND (deaths >= :deaths OR interruptions >= :interruptions)',
    { workerId, deaths: MOST_DEATHS, interruptions: MOST_INTERRUPTIONS },
    `, CASE WHEN deaths >= :deaths THEN 'crashed' ELSE 'interrupted' END AS reason`,
  );
}
