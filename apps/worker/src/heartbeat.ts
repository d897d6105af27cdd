import { type Database, type JobOf, MOST_ATTEMPTS, notify } from '@rundle/store';
import type { WorkerUtils } from 'graphile-worker';
import { QueryTypes } from 'sequelize';
import { finishRun } from './finish-run';

const BEAT = 2000;
const DEAD_AFTER = 6000;

/**
 * Tells the other workers that this one lives, and gives back to the queue what dead ones held: a job whose worker was
 * killed would otherwise stay locked for four hours.
 * @param workerId name under which this program holds jobs
 * @returns stops the beating and signs off
 */
export function startHeartbeat(database: Database, utils: WorkerUtils, workerId: string): () => Promise<void> {
  const { sequelize } = database;
  // After the database was away every beat is late: nobody is buried until all have had the time to beat again.
  let lastSuccess = Date.now();
  const beat = async () => {
    await sequelize.query(`INSERT INTO worker_beats (worker_id) VALUES (:workerId) ON CONFLICT (worker_id) DO UPDATE SET beat_at = now()`, {
      replacements: { workerId },
    });
    const wasAway = Date.now() - lastSuccess > 2 * BEAT;
    lastSuccess = Date.now();
    if (!wasAway) await reap(database, utils);
  };
  const timer = setInterval(() => void beat().catch(() => {}), BEAT);
  void beat().catch(() => {});
  return async () => {
    clearInterval(timer);
    await sequelize.query('DELETE FROM worker_beats WHERE worker_id = :workerId', { replacements: { workerId } }).catch(() => {});
  };
}

async function reap(database: Database, utils: WorkerUtils): Promise<void> {
  const { sequelize } = database;
  const dead = await sequelize.query<{ id: string }>(
    `SELECT DISTINCT locked_by AS id FROM graphile_worker._private_jobs j
     WHERE locked_by IS NOT NULL AND NOT EXISTS (
       SELECT 1 FROM worker_beats b WHERE b.worker_id = j.locked_by AND b.beat_at > now() - make_interval(secs => :seconds))
     AND locked_at < now() - make_interval(secs => :seconds)`,
    { type: QueryTypes.SELECT, replacements: { seconds: DEAD_AFTER / 1000 } },
  );
  if (dead.length) await utils.forceUnlockWorkers(dead.map(({ id }) => id));
  await giveUp(database, utils);
}

interface SpentJob {
  id: string;
  name: string;
  payload: JobOf<'read-master'> | JobOf<'render-master'>;
}

/** Jobs that have used up their attempts, that is, have brought their worker down each time: their pictures fail for good. */
async function giveUp(database: Database, utils: WorkerUtils): Promise<void> {
  const { sequelize } = database;
  const spent = await sequelize.query<SpentJob>(
    `SELECT j.id, t.identifier AS name, j.payload FROM graphile_worker._private_jobs j
     JOIN graphile_worker._private_tasks t ON t.id = j.task_id
     WHERE j.attempts >= :most AND j.locked_at IS NULL`,
    { type: QueryTypes.SELECT, replacements: { most: MOST_ATTEMPTS } },
  );
  for (const { id, payload } of spent) {
    if ('runId' in payload) await failOutputs(database, payload);
    else await failMaster(database, payload);
    await utils.completeJobs([id]);
  }
}

const CRASHED = {
  code: 'renderer-crashed',
  message: `This picture stopped the renderer ${MOST_ATTEMPTS} times and was given up. Export it again in another format, then try once more.`,
};

async function failOutputs(database: Database, { runId, masterId }: JobOf<'render-master'>): Promise<void> {
  const change = { state: 'failed' as const, error: CRASHED, finishedAt: new Date() };
  const [, rows] = await database.outputs.update(change, { where: { runId, masterId, state: ['planned', 'running'] }, returning: true });
  const run = await database.runs.findByPk(runId);
  if (run) await notify(database.sequelize, { about: 'outputs', setId: run.setId, ids: rows.map(({ id }) => id) });
  await finishRun(database, runId);
}

async function failMaster(database: Database, { masterId }: JobOf<'read-master'>): Promise<void> {
  const master = await database.masters.findByPk(masterId);
  await master?.update({ state: 'failed', problem: { ...CRASHED, file: master.fileName } });
  if (master) await notify(database.sequelize, { about: 'masters', setId: master.setId, ids: [masterId] });
}
