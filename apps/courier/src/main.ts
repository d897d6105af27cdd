import { setPriority } from 'node:os';
import { setTimeout as wait } from 'node:timers/promises';
import type { Problem } from '@rundle/core';
import { type DeliveryRow, isDatabaseAway, openDatabase, openFiles, openLog, readConfig, Secrets } from '@rundle/store';
import * as z from 'zod';
import { carryOut } from './carry-out';
import { type CourierContext, Job } from './job';

/*
 * The program that carries deliveries out, several at a time. The server starts it when there is something to deliver. What is open is in the
 * database; what it is told only wakes it up. When nothing has been open for a while it ends.
 */

const Order = z.union([z.literal('look'), z.object({ stop: z.string() })]);

/** Deliveries that are carried out at once. */
const AT_ONCE = 3;
/** How often the database is asked what is open though nobody said so, ms. */
const LOOK = 5000;
/** After so long without work it ends, ms. */
const IDLE = 10 * 60_000;
/** What fails of itself, by a fault of ours, is tried so often. */
const TRIES = 3;

// Behind the server, which somebody waits for: see nice(2).
setPriority(2);
const config = readConfig();
const log = openLog('courier', config.logLevel);
const database = openDatabase(config.databaseUrl);
const context: CourierContext = {
  database,
  files: await openFiles(config.data, config.writeRoots),
  secrets: new Secrets(config.data),
  data: config.data,
  writeRoots: config.writeRoots,
  log,
};

const underWay = new Map<string, AbortController>();
/** Where something is being sent to: what lies there is changed by one delivery at a time. */
const places = new Set<string>();
const faults = new Map<string, number>();
let ending = false;
let lastWork = Date.now();
let isAsked = false;
let goOn = (): void => {};
/** What is asked for while it is being looked already is looked for once more. */
const wake = (): void => {
  isAsked = true;
  goOn();
};

const end = () => {
  ending = true;
  for (const stop of underWay.values()) stop.abort();
  wake();
};
for (const signal of ['SIGTERM', 'SIGINT', 'disconnect'] as const) process.once(signal, end);
// The server may have ended while this program was loading.
const started: { connected?: boolean } = process;
if (started.connected === false) end();
process.on('message', (message: unknown) => {
  const order = Order.parse(message);
  if (order !== 'look') underWay.get(order.stop)?.abort();
  wake();
});

while (!ending || underWay.size > 0) {
  isAsked = false;
  if (!ending)
    await begin().catch((error: unknown) => log[isDatabaseAway(error) ? 'warn' : 'error']({ err: error }, 'looking for deliveries failed'));
  if (underWay.size > 0) lastWork = Date.now();
  else if (Date.now() - lastWork > IDLE) break;
  const timer = new AbortController();
  const woken = new Promise<void>((resolve) => (goOn = resolve));
  if (!isAsked) await Promise.race([woken, wait(LOOK, undefined, { signal: timer.signal }).catch(() => {})]);
  timer.abort();
}
await database.close();
process.exit(0);

async function begin(): Promise<void> {
  const open = await database.deliveries.findAll({ where: { state: ['checking', 'sending'] }, order: [['createdAt', 'ASC']] });
  for (const row of open) {
    if (underWay.has(row.id) || underWay.size >= AT_ONCE || (row.place !== null && places.has(row.place))) continue;
    const stop = new AbortController();
    if (row.cancelAskedAt) await new Job(context, row, stop.signal).change({ state: 'cancelled', finishedAt: new Date() });
    else {
      underWay.set(row.id, stop);
      if (row.place !== null) places.add(row.place);
      void carry(row, stop);
    }
  }
}

async function carry(row: DeliveryRow, stop: AbortController): Promise<void> {
  try {
    await carryOut(new Job(context, row, stop.signal));
    faults.delete(row.id);
  } catch (error) {
    const count = (faults.get(row.id) ?? 0) + 1;
    faults.set(row.id, count);
    log.error({ err: error, delivery: row.id }, 'a delivery failed by a fault of ours');
    if (count < TRIES) await wait(1000);
    else await giveUp(row);
  } finally {
    underWay.delete(row.id);
    if (row.place !== null) places.delete(row.place);
    // One that was cancelled is written down as that at the next look.
    wake();
  }
}

async function giveUp(row: DeliveryRow): Promise<void> {
  faults.delete(row.id);
  const problem: Problem = { code: 'internal', message: 'Something went wrong on the server. Its log says more; go on to try again.' };
  await new Job(context, row, new AbortController().signal)
    .change({ state: 'failed', finishedAt: new Date(), problem })
    .catch((error: unknown) => log.error({ err: error, delivery: row.id }, 'that could not be written down'));
}
