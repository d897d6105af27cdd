import { availableParallelism, loadavg } from 'node:os';
import { type FileTypeName, runTime, slowerBy, type WaitingWork, type WorkKind, type WorkersView, type WorkerView } from '@rundle/core';
import { type Database, DEAD_AFTER, IS_DRAINED, type JobName, type WorkerStats } from '@rundle/store';
import { QueryTypes } from 'sequelize';
import { paceOf } from '../runs/pace';

/** What each job of the queue is called for people. */
export const KINDS: Record<JobName, WorkKind> = {
  'read-master': 'read',
  'weigh-master': 'weigh',
  'see-master': 'see',
  'check-watermark': 'check',
  'render-master': 'make',
  'move-outputs': 'move',
};

/** The workers that have signed on, what each is at, and what waits for them. */
export async function workersView(database: Database): Promise<WorkersView> {
  const [workers, waiting] = await Promise.all([workersAtWork(database), waitingWork(database)]);
  return { workers, waiting, throughInSeconds: await throughIn(database, workers) };
}

async function workersAtWork({ sequelize }: Database): Promise<WorkerView[]> {
  const rows = await sequelize.query<
    Pick<WorkerView, 'id' | 'host' | 'seat' | 'engine' | 'reads' | 'writes' | 'beatSecondsAgo' | 'drained'> & {
      stats: Partial<WorkerStats>;
      name: JobName | null;
      file: string | null;
      setId: string | null;
      setTitle: string | null;
    }
  >(
    `SELECT w.id, w.host, w.engine, w.reads, w.writes, w.stats, coalesce(w.seat, w.number::text) AS seat, ${IS_DRAINED} AS drained,
       round(extract(epoch FROM now() - w.beat_at)::numeric, 1)::float8 AS "beatSecondsAgo",
       k.name, m.file_name AS file, s.id AS "setId", s.title AS "setTitle"
     FROM workers w LEFT JOIN LATERAL (SELECT * FROM work k WHERE k.worker_id = w.id ORDER BY k.attempt DESC LIMIT 1) k ON true
     LEFT JOIN masters m ON m.id = k.master_id LEFT JOIN runs r ON r.id = k.run_id
     LEFT JOIN sets s ON s.id = coalesce(m.set_id, r.set_id) ORDER BY w.host, length(w.seat), w.seat, w.number`,
    { type: QueryTypes.SELECT },
  );
  return rows.map(({ stats, name, file, setId, setTitle, ...worker }) => ({
    ...worker,
    since: stats.since === undefined ? null : new Date(stats.since).toISOString(),
    silent: worker.beatSecondsAgo > DEAD_AFTER,
    work: name && { kind: KINDS[name], file, setId, setTitle },
    busyMs: stats.busyMs ?? null,
    done: stats.done ?? 0,
    failed: stats.failed ?? 0,
    perMinute: stats.perMinute ?? 0,
    memoryBytes: stats.memoryBytes ?? null,
  }));
}

/** What nobody has taken yet, by kind. */
export async function waitingWork({ sequelize }: Database): Promise<WaitingWork[]> {
  const rows = await sequelize.query<Omit<WaitingWork, 'kind'> & { name: JobName }>(
    `SELECT k.name, count(*)::int AS pieces, (count(*) FILTER (WHERE r.state = 'paused'))::int AS paused,
       extract(epoch FROM now() - min(k.added_at))::float8 AS "oldestSeconds",
       CASE WHEN k.name = 'render-master' THEN (SELECT count(*) FROM outputs o JOIN work w ON w.run_id = o.run_id AND w.master_id = o.master_id
         WHERE o.state = 'planned' AND w.name = 'render-master' AND w.worker_id IS NULL)::int ELSE 0 END AS files
     FROM work k LEFT JOIN runs r ON r.id = k.run_id WHERE k.worker_id IS NULL GROUP BY k.name`,
    { type: QueryTypes.SELECT },
  );
  const order = Object.keys(KINDS);
  return rows
    .toSorted((a, b) => order.indexOf(a.name) - order.indexOf(b.name))
    .map(({ name, ...waiting }) => ({ kind: KINDS[name], ...waiting }));
}

/** When all files of runs that go on will have been made, in seconds from now; null while nobody makes any, or none are to be made. */
async function throughIn(database: Database, workers: readonly WorkerView[]): Promise<number | null> {
  const awake = workers.filter(({ drained, silent }) => !drained && !silent).length;
  if (awake === 0) return null;
  const open = await database.sequelize.query<{ type: FileTypeName; expectedMs: number }>(
    `SELECT v.body->'file'->>'type' AS type, sum(o.expected_ms)::float8 AS "expectedMs"
     FROM outputs o JOIN runs r ON r.id = o.run_id JOIN preset_versions v ON v.preset_id = o.preset_id AND v.version = o.preset_version
     WHERE o.state IN ('planned', 'running') AND r.state = 'running' GROUP BY 1`,
    { type: QueryTypes.SELECT },
  );
  if (open.length === 0) return null;
  const { paces } = await paceOf(database);
  // Those that are at work already are part of the load.
  const others = Math.max(0, loadavg()[0]! - workers.filter(({ work }) => work).length);
  return runTime(open, paces, awake, slowerBy(others, awake, availableParallelism())) / 1000;
}
