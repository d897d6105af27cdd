import type { Sequelize, Transaction } from 'sequelize';
import * as z from 'zod';

/** What workers do, and what each job says. */
export const Jobs = {
  'read-master': z.object({ masterId: z.uuid() }),
  'check-watermark': z.object({ watermarkId: z.uuid() }),
  'render-master': z.object({ runId: z.uuid(), masterId: z.uuid() }),
} as const;
export type JobName = keyof typeof Jobs;
export type JobOf<N extends JobName> = z.infer<(typeof Jobs)[N]>;

/** A picture that brings its worker down is not tried for ever. */
export const MOST_ATTEMPTS = 3;

/** Urgent first: pictures show up on the contact sheet before a long run goes on. */
const PRIORITY: Record<JobName, number> = { 'read-master': 0, 'check-watermark': 0, 'render-master': 10 };
/** Before all others: what somebody waits for in front of an empty page. */
const FIRST = -1;

/**
 * Puts jobs into the queue, in the same transaction as the rows they speak of.
 * @param first how many of them go before all others
 */
export async function addJobs<N extends JobName>(
  sequelize: Sequelize,
  transaction: Transaction,
  name: N,
  jobs: readonly JobOf<N>[],
  first = 0,
): Promise<void> {
  await sequelize.query(
    `SELECT graphile_worker.add_job(:name, job, max_attempts := :attempts,
       priority := CASE WHEN place <= :first THEN :urgent ELSE :priority END)
     FROM json_array_elements(:jobs::json) WITH ORDINALITY AS jobs(job, place) ORDER BY place`,
    {
      transaction,
      replacements: { name, jobs: JSON.stringify(jobs), attempts: MOST_ATTEMPTS, first, urgent: FIRST, priority: PRIORITY[name] },
    },
  );
}
