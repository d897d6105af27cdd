import { randomUUID } from 'node:crypto';
import { EventEmitter, once } from 'node:events';
import { setPriority } from 'node:os';
import { setTimeout as wait } from 'node:timers/promises';
import { RenderPool, typesByPrograms } from '@rundle/render';
import { checkDatabase, listen, openDatabase, openFiles, openLog, readConfig, signOff, UnusableDatabase } from '@rundle/store';
import { Logger as GraphileLogger, makeWorkerUtils, run, type WorkerUtils } from 'graphile-worker';
import * as z from 'zod';
import { MemoryBound, RENEWED } from './alive/memory-bound';
import { Presence } from './alive/presence';
import { Tally } from './alive/tally';
import { Watch } from './alive/watch';
import { type Context, inDatabase, logFailure } from './context';
import { WorkList } from './work-list';

// One picture at a time per program: a picture that brings the renderer down takes no other with it. As many of these
// programs as there are cores are started, on as many machines as wanted.
// Behind the server and its samples, which somebody waits for: see nice(2).
setPriority(5);
const config = readConfig();
const log = openLog('worker', config.logLevel);
process.on('unhandledRejection', logFailure(log, 'something that nobody waited for'));

// The parent process may be killed at any moment: exit with it. Until everything has started there is nothing to clean up.
let end: (code?: number) => Promise<void> = () => process.exit(0);
for (const signal of ['SIGTERM', 'SIGINT', 'disconnect'] as const) process.once(signal, () => void end());
// The parent may have ended while this program was loading. A program started by hand has none.
const started: { connected?: boolean } = process;
if (started.connected === false) process.exit(0);

const ending = new AbortController();
const pool = new RenderPool(new URL('./render-thread.js', import.meta.url), 1);
const context: Context = {
  database: openDatabase(config.databaseUrl),
  files: await openFiles(config.data, config.writeRoots),
  pool,
  log,
  tally: new Tally(process.env['RUNDLE_WORKER_TALLY']),
  ending: ending.signal,
};
// The first picture of a set should not wait for ExifTool. Errors are reported with the first picture, too.
void pool.warm().catch((error: unknown) => ending.signal.aborted || logFailure(log, 'starting the engine')(error));

await inDatabase(context, () => checkDatabase(config.databaseUrl)).catch((error: unknown) => {
  if (!(error instanceof UnusableDatabase)) throw error;
  process.stderr.write(`\n${error.message}\n`);
  process.exit(1);
});

/** The name under which the supervisor knows this program; without one it makes its own. */
const workerId = process.env['RUNDLE_WORKER_ID'] ?? randomUUID();
/** Aborted while this worker is to take nothing new; what it is at comes to its end. */
let draining = new AbortController();
const wakes = new EventEmitter();
const seat = process.env['RUNDLE_WORKER_SEAT'] ?? workerId;
const presence = new Presence(config.databaseUrl, { id: workerId, seat }, typesByPrograms(), context.tally, log, (isDrained) => {
  if (isDrained) return draining.abort();
  draining = new AbortController();
  wakes.emit('awake');
});
await presence.start();
const utils: WorkerUtils = await inDatabase(context, () => makeWorkerUtils({ connectionString: config.databaseUrl }));

const watch = new Watch(context, utils, workerId, presence, (stalled) => process.send?.({ stalled }));
/** Workers whose end the supervisor has seen since it last spoke to one. */
const Deaths = z.array(z.object({ workerId: z.string(), cause: z.enum(['picture', 'other']) }));
await inDatabase(context, () => watch.bury(Deaths.parse(JSON.parse(process.env['RUNDLE_DEATHS'] ?? '[]'))));
watch.start();

const work = new WorkList(context, workerId);
const memory = new MemoryBound(process.env['RUNDLE_WORKER_MB'], () => {
  process.send?.({ tally: context.tally.handedOn() });
  void end(RENEWED);
});
const stopListening = listen(
  config.databaseUrl,
  (notice) => {
    if (notice.about === 'run-stopped') for (const id of notice.ids) work.stop(id);
  },
  () => {},
  logFailure(log, 'listening'),
);
process.send?.('ready');

/** How long the queue gathers what was done before it crosses it off, in ms: so it tries again while the database is away. */
const CROSS_OFF = 5;

const say = (level: string, message: string) => (level === 'error' ? log.warn(message) : log.debug(message));
let runner: Awaited<ReturnType<typeof run>> | undefined;
async function takeJobs(): Promise<void> {
  while (!ending.signal.aborted) {
    if (draining.signal.aborted) await once(wakes, 'awake', { signal: ending.signal }).catch(() => {});
    if (ending.signal.aborted) return;
    const { signal } = draining;
    const stop = () => void runner?.stop().catch(logFailure(log, 'taking no more work'));
    try {
      runner = await run({
        connectionString: config.databaseUrl,
        concurrency: 1,
        pollInterval: 1000,
        noHandleSignals: true,
        taskList: memory.watched(work.tasks),
        logger: new GraphileLogger(() => (level, message) => say(level, message)),
        preset: { worker: { completeJobBatchDelay: CROSS_OFF, failJobBatchDelay: CROSS_OFF } },
        events: work.events((poolId) => (presence.poolId = poolId)),
      });
      // It was told to end while this was being made ready.
      if (ending.signal.aborted || signal.aborted) await runner.stop();
      signal.addEventListener('abort', stop, { once: true });
      await runner.promise;
    } catch (error) {
      if (!ending.signal.aborted) logFailure(log, 'taking jobs from the queue')(error);
    } finally {
      signal.removeEventListener('abort', stop);
    }
    await wait(1000, undefined, { signal: ending.signal }).catch(() => {});
  }
}
const taking = takeJobs();

/** How long a shutdown may take before it is forced, in ms; the supervisor waits a little longer. */
const LAST_MOMENT = 12_000;

end = async (code = 0) => {
  if (ending.signal.aborted) return;
  memory.end();
  ending.abort();
  setTimeout(() => process.exit(code), LAST_MOMENT).unref();
  await runner?.stop().catch(() => {});
  await taking;
  await watch.end();
  await stopListening();
  await signOff(context.database.sequelize, workerId).catch(logFailure(log, 'signing off'));
  await presence.end();
  await utils.release();
  await pool.close();
  await context.database.close();
  process.exit(code);
};
