import { QueryTypes, type Sequelize, type Transaction } from 'sequelize';
import * as z from 'zod';
import { Overrides } from '@rundle/core';
import { MOVES_FIRST } from '../outputs/moves-open';

/** What workers do, and what each piece of work says. */
export const Jobs = {
  'read-master': z.object({ masterId: z.uuid() }),
  /** `small`: only its small picture, before anything is planned; `withAvif`: as AVIF, too. Work of earlier releases does not say. */
  'weigh-master': z.object({ masterId: z.uuid(), small: z.boolean().default(false), withAvif: z.boolean().default(false) }),
  /** Measures what draws the eye in it, where a preset asks for a ratio. */
  'see-master': z.object({ masterId: z.uuid() }),
  'check-watermark': z.object({ watermarkId: z.uuid() }),
  /** `overrides`: what was decided about the master when the run was started; runs of earlier releases do not say. */
  'render-master': z.object({ runId: z.uuid(), masterId: z.uuid(), overrides: Overrides.optional() }),
  /** Carries out what a journal says of files; `runId`: the run that it belongs to. */
  'move-outputs': z.object({ journal: z.uuid(), runId: z.uuid().optional() }),
} as const;
export type JobName = keyof typeof Jobs;
export type JobOf<N extends JobName> = z.infer<(typeof Jobs)[N]>;

/**
 * Lower is more urgent: new pictures appear on the contact sheet before a long run goes on, and what only makes figures finer waits for all else.
 */
const PRIORITY: Record<JobName, number> = {
  'read-master': 0,
  'check-watermark': 0,
  'move-outputs': 0,
  'see-master': 5,
  'render-master': 10,
  'weigh-master': 30_000,
};
/** A rough weight of each picture comes before a finer one of some. */
export const WEIGHED_SMALL = 29_000;
/** The queue keeps priorities as small integers. */
const LAST = 32_000;
/** The most urgent: pictures of a screen that is still empty. */
const FIRST = -1;

/**
 * Attempts are counted in the table `work`. The queue's own limit only has to be out of the way: at it, the queue would silently stop
 * offering a job.
 */
export const QUEUE_ATTEMPTS = 30_000;

/** What a piece of work is about. */
export interface WorkIds {
  runId?: string | undefined;
  masterId?: string;
  watermarkId?: string;
  journal?: string;
  small?: boolean;
  withAvif?: boolean;
}

/** What tells one piece of work from another; the same while it lasts. */
export function workKey(name: JobName, ids: WorkIds): string {
  return [name, ids.small && 'small', ids.withAvif && 'avif', ids.journal ?? ids.runId, ids.masterId, ids.watermarkId]
    .filter(Boolean)
    .join(':');
}

/**
 * Writes work down and tells the queue, in the same transaction as the rows it speaks of. Existing work is left unchanged and queued again.
 * @param first how many of them go before all others
 * @param line place of their run among the open ones: lower goes first
 * @param waits whether the queue is told later, by {@link offerRun}
 */
export async function addJobs<N extends JobName>(
  sequelize: Sequelize,
  transaction: Transaction,
  name: N,
  jobs: readonly JobOf<N>[],
  { first = 0, line = 0, waits = false }: { first?: number; line?: number; waits?: boolean } = {},
): Promise<void> {
  if (jobs.length === 0) return;
  const rows = jobs.map((payload, place) => ({
    key: workKey(name, payload),
    payload,
    priority: place < first ? FIRST : Math.min(PRIORITY[name] + line, LAST),
  }));
  await sequelize.query(
    `INSERT INTO work (key, name, payload, priority, run_id, master_id, watermark_id, journal)
     SELECT row->>'key', :name, row->'payload', (row->>'priority')::int, (row->'payload'->>'runId')::uuid,
       (row->'payload'->>'masterId')::uuid, (row->'payload'->>'watermarkId')::uuid, (row->'payload'->>'journal')::uuid
     FROM jsonb_array_elements(:rows::jsonb) WITH ORDINALITY AS rows(row, place) ORDER BY place
     ON CONFLICT (key) DO UPDATE SET payload = excluded.payload, deaths = 0, interruptions = 0`,
    { transaction, replacements: { name, rows: JSON.stringify(rows) } },
  );
  if (waits) return;
  await offer(
    sequelize,
    rows.map(({ key }) => key),
    0,
    transaction,
  );
}

/** Writes down that something is to be found out about pictures, of which that is not written down yet. */
export async function addMeasuring(
  sequelize: Sequelize,
  name: 'weigh-master' | 'see-master',
  masterIds: readonly string[],
  { how = null, transaction }: { how?: 'small' | 'withAvif' | null; transaction?: Transaction } = {},
): Promise<void> {
  const rows = masterIds.map((masterId) => {
    const payload = { masterId, ...(how && { [how]: true }) };
    // Each is other work than the others: one does not stand in for another.
    return { key: workKey(name, payload), masterId, payload };
  });
  const priority = how === 'small' ? WEIGHED_SMALL : PRIORITY[name];
  const added = await sequelize.query<{ key: string }>(
    `INSERT INTO work (key, name, payload, priority, master_id)
     SELECT row->>'key', :name, row->'payload', :priority, (row->>'masterId')::uuid
     FROM jsonb_array_elements(:rows::jsonb) AS rows(row) ON CONFLICT DO NOTHING RETURNING key`,
    { type: QueryTypes.SELECT, transaction: transaction ?? null, replacements: { name, priority, rows: JSON.stringify(rows) } },
  );
  await offer(
    sequelize,
    added.map(({ key }) => key),
    0,
    transaction,
  );
}

/**
 * Puts pieces of work into the queue. Duplicates are harmless: a worker claims work before it begins.
 * @param delay seconds until they are handed out
 */
export async function offer(sequelize: Sequelize, keys: readonly string[], delay: number, transaction?: Transaction): Promise<void> {
  if (keys.length === 0) return;
  await sequelize.query(
    `SELECT graphile_worker.add_job(w.name, w.payload::json, job_key := w.key, max_attempts := :attempts, priority := w.priority,
       run_at := now() + make_interval(secs => :delay))
     FROM jsonb_array_elements_text(:keys::jsonb) WITH ORDINALITY AS k(key, place) JOIN work w ON w.key = k.key ORDER BY k.place`,
    {
      transaction: transaction ?? null,
      replacements: { keys: JSON.stringify(keys), attempts: QUEUE_ATTEMPTS, delay },
    },
  );
}

/** What is measured is asked for again by the next plan, so that nothing of it has to be found again. */
const LOST: Record<Exclude<JobName, 'weigh-master' | 'see-master'>, string> = {
  'render-master': `SELECT DISTINCT jsonb_build_object('runId', o.run_id, 'masterId', o.master_id) FROM outputs o JOIN runs r ON r.id = o.run_id
    WHERE r.state = 'running' AND o.state IN ('planned', 'running')
      AND NOT EXISTS (SELECT 1 FROM work w WHERE w.run_id = o.run_id AND w.master_id = o.master_id)`,
  'move-outputs': `SELECT DISTINCT jsonb_strip_nulls(jsonb_build_object('journal', m.journal, 'runId', m.run_id)) FROM moves m
    WHERE m.state <> 'settled' AND m.stage = 'first' AND NOT EXISTS (SELECT 1 FROM work w WHERE w.journal = m.journal)`,
  'read-master': `SELECT jsonb_build_object('masterId', m.id) FROM masters m
    WHERE m.state = 'arriving' AND NOT EXISTS (SELECT 1 FROM work w WHERE w.key = 'read-master:' || m.id)`,
  'check-watermark': `SELECT jsonb_build_object('watermarkId', m.id) FROM watermarks m
    WHERE m.state = 'checking' AND NOT EXISTS (SELECT 1 FROM work w WHERE w.key = 'check-watermark:' || m.id)`,
};

/** Offers what is open of a run again, after a pause in which its jobs have ended. */
export async function offerRun(sequelize: Sequelize, runId: string, transaction: Transaction): Promise<void> {
  const rows = await sequelize.query<{ key: string }>(`SELECT key FROM work WHERE run_id = :runId ORDER BY added_at`, {
    type: QueryTypes.SELECT as const,
    transaction,
    replacements: { runId },
  });
  await offer(
    sequelize,
    rows.map(({ key }) => key),
    0,
    transaction,
  );
}

/** Puts what is open of runs into the order of their lines. */
export async function reorderWork(sequelize: Sequelize, transaction: Transaction): Promise<void> {
  const rows = await sequelize.query<{ key: string }>(
    `UPDATE work w SET priority = ${PRIORITY['render-master']} + least(r.line, 20000) FROM runs r
     WHERE w.run_id = r.id AND w.worker_id IS NULL AND w.priority <> ${PRIORITY['render-master']} + least(r.line, 20000) RETURNING key`,
    { type: QueryTypes.SELECT as const, transaction },
  );
  await offer(
    sequelize,
    rows.map(({ key }) => key),
    0,
    transaction,
  );
}

/**
 * Writes work down again that is open and of which nothing is known, as after a database that lost its last moments.
 * @returns how much
 */
export async function restoreLost(sequelize: Sequelize): Promise<number> {
  let restored = 0;
  for (const name of Object.keys(LOST) as (keyof typeof LOST)[])
    restored += await sequelize.transaction(async (transaction) => {
      const rows = await sequelize.query<{ job: JobOf<JobName> }>(`SELECT job FROM (${LOST[name]}) AS lost(job) LIMIT 5000`, {
        type: QueryTypes.SELECT as const,
        transaction,
      });
      await addJobs(
        sequelize,
        transaction,
        name,
        rows.map(({ job }) => job),
      );
      if (rows.length) await reorderWork(sequelize, transaction);
      return rows.length;
    });
  return restored;
}

/** How long work may be without a worker and without a place in the queue before it is offered again, in seconds. */
const FORGOTTEN_AFTER = 2;

/**
 * Offers what is open, held by nobody, and not in the queue: a worker that was late can have taken the queue's entry of a newer
 * attempt away, and one that was killed leaves its own locked.
 * @returns how many
 */
export async function offerForgotten(sequelize: Sequelize): Promise<number> {
  const rows = await sequelize.query<{ key: string }>(
    `SELECT w.key FROM work w WHERE w.worker_id IS NULL AND w.added_at < now() - make_interval(secs => :after)
       AND NOT EXISTS (SELECT 1 FROM runs r WHERE r.id = w.run_id AND (r.state = 'paused' OR w.name = 'render-master' AND ${MOVES_FIRST}))
       AND NOT EXISTS (SELECT 1 FROM graphile_worker.jobs j WHERE j.key = w.key AND j.locked_at IS NULL AND j.attempts < j.max_attempts)
     ORDER BY w.priority, w.added_at LIMIT 500`,
    { type: QueryTypes.SELECT, replacements: { after: FORGOTTEN_AFTER } },
  );
  await offer(
    sequelize,
    rows.map(({ key }) => key),
    0,
  );
  return rows.length;
}

/** How much work there is: what nobody has taken yet, and what a worker is at. */
export async function workCounts(sequelize: Sequelize): Promise<{ waiting: number; underWay: number }> {
  const [counts] = await sequelize.query<{ waiting: number; underWay: number }>(
    `SELECT count(*) FILTER (WHERE worker_id IS NULL)::int AS waiting, count(worker_id)::int AS "underWay" FROM work`,
    { type: QueryTypes.SELECT },
  );
  return counts!;
}
