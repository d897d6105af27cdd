import { randomUUID } from 'node:crypto';
import { RenderPool } from '@rundle/render';
import { Jobs, listen, openDatabase, readConfig, Storage } from '@rundle/store';
import { Logger as GraphileLogger, makeWorkerUtils, run, type TaskList } from 'graphile-worker';
import { pino } from 'pino';
import { checkWatermark } from './check-watermark';
import { startHeartbeat } from './heartbeat';
import { readMaster } from './read-master';
import { renderMasterJob } from './render-master';

// One picture at a time per program: a picture that brings the renderer down takes no other with it. As many of these
// programs as there are cores are started, on as many machines as wanted.
const config = readConfig();
const log = pino({ level: config.logLevel, name: 'worker' });
const database = openDatabase(config.databaseUrl);
const storage = new Storage(config.data);
const pool = new RenderPool(new URL('./render-thread.js', import.meta.url), 1);
// The first picture of a set should not wait for it. What is wrong is told by the first picture, too.
void pool.warm().catch(() => {});
const utils = await makeWorkerUtils({ connectionString: config.databaseUrl });

/** What is being rendered now, to stop it when its run is cancelled. */
const underWay = new Map<string, Set<AbortController>>();
const ending = new AbortController();
/** Jobs that the shutdown of this program has broken off. */
const interrupted: { id: string; attempts: number }[] = [];

const taskList: TaskList = {
  'read-master': (payload) => readMaster(Jobs['read-master'].parse(payload), database, storage, pool),
  'check-watermark': (payload) => checkWatermark(Jobs['check-watermark'].parse(payload), database, pool),
  'render-master': async (payload, { job: { id, attempts } }) => {
    const job = Jobs['render-master'].parse(payload);
    const stop = new AbortController();
    const siblings = underWay.get(job.runId) ?? new Set();
    underWay.set(job.runId, siblings.add(stop));
    try {
      await renderMasterJob(job, database, storage, pool, AbortSignal.any([stop.signal, ending.signal]));
    } catch (error) {
      if (ending.signal.aborted) interrupted.push({ id, attempts });
      throw error;
    } finally {
      siblings.delete(stop);
      if (siblings.size === 0) underWay.delete(job.runId);
    }
  },
};

const stopListening = listen(
  config.databaseUrl,
  ({ about, ids }) => {
    if (about === 'run-cancelled') for (const id of ids) for (const stop of underWay.get(id) ?? []) stop.abort();
  },
  () => {},
);
const workerId = `rundle-${process.pid}-${randomUUID()}`;
const stopBeating = startHeartbeat(database, utils, workerId);
const runner = await run({
  ...{ connectionString: config.databaseUrl, workerId, concurrency: 1, pollInterval: 1000, noHandleSignals: true, taskList },
  logger: new GraphileLogger(() => (level, message) => ((level as string) === 'error' ? log.error(message) : log.debug(message))),
});
process.send?.('ready');

async function end(): Promise<void> {
  if (ending.signal.aborted) return;
  ending.abort();
  await runner.stop().catch(() => {});
  // A shutdown is no fault of the picture: the attempt is given back and the next worker may begin at once.
  for (const { id, attempts } of interrupted) await utils.rescheduleJobs([id], { attempts: attempts - 1, runAt: new Date() });
  await stopBeating();
  await stopListening();
  await utils.release();
  await pool.close();
  await database.close();
  process.exit(0);
}
process.once('SIGTERM', () => void end());
process.once('SIGINT', () => void end());
// Whoever started us is gone, perhaps killed: do not stay behind alone.
process.once('disconnect', () => void end());
