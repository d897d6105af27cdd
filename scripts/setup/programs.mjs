// @ts-check
import { fork } from 'node:child_process';
import { randomUUID } from 'node:crypto';
import { availableParallelism } from 'node:os';
import { join } from 'node:path';
import { setTimeout as wait } from 'node:timers/promises';
import { ROOT } from './stale.mjs';
import { causeOfDeath, watchMemoryKills } from './deaths.mjs';
import { HEAP_MB, WORKER_MB } from './bounds.mjs';
import { say, stop } from './say.mjs';

/** Starting again waits longer each time, up to this, in ms: what fails at once is not tried a hundred times a second. */
const LONGEST_PAUSE = 15_000;
/** Before the first starts again, in ms. */
const FIRST_PAUSE = 500;
/** A program that has run for so long is in order, in ms. */
const IN_ORDER_AFTER = 60_000;

/** A worker ends with this code when it has given back its work and holds more memory than it may; see apps/worker. */
const RENEWED = 75;

/**
 * @typedef {object} Worker
 * @property {string} id name under which it signs on
 * @property {import('node:child_process').ChildProcess} child
 */

/**
 * Starts the server and the workers, starts each again when it dies, and ends them all. A worker is told which workers have died since one
 * was last told, and whether what they worked on can have been the cause: only this program sees how they ended.
 * @param {NodeJS.ProcessEnv} environment
 * @param {string} programs folder of the bundled programs
 */
export async function startPrograms(environment, programs = join(ROOT, 'dist')) {
  let ending = false;
  /** @type {Set<import('node:child_process').ChildProcess>} */
  const children = new Set();
  /** @type {Set<Worker>} */
  const workers = new Set();
  /** @type {{ workerId: string, cause: 'picture' | 'other' }[]} */
  const untold = [];
  const memoryKills = watchMemoryKills();

  /** @param {string} workerId */
  const replace = (workerId) => {
    for (const { id, child } of workers)
      if (id === workerId) {
        say('A worker has not answered for minutes and is replaced.');
        child.kill('SIGKILL');
      }
  };

  /**
   * @param {'server' | 'worker' | 'stand-ins'} name
   * @param {number} [seat] of a worker
   * @returns {Promise<void>} resolves when it is ready
   */
  const keep = (name, seat = 1) =>
    new Promise((resolve) => {
      /** What the worker before has done, when it only gave its memory back. @type {{ RUNDLE_WORKER_TALLY?: string }} */
      let handedOn = {};
      let pause = FIRST_PAUSE;
      let starts = 0;
      let wasReady = false;
      const start = () => {
        if (ending) return;
        starts++;
        const begun = Date.now();
        const id = randomUUID();
        const told = name === 'worker' ? [...untold] : [];
        const more =
          name === 'worker'
            ? {
                RUNDLE_WORKER_ID: id,
                RUNDLE_WORKER_SEAT: String(seat),
                RUNDLE_DEATHS: JSON.stringify(told),
                RUNDLE_WORKER_MB: JSON.stringify(WORKER_MB),
                ...handedOn,
              }
            : {};
        // Detached: Ctrl-C in the terminal reaches this program only, which then ends the others in order.
        const child = fork(join(programs, `${name}.js`), [], {
          env: { ...environment, ...more },
          execArgv: [`--max-old-space-size=${HEAP_MB[name]}`],
          cwd: ROOT,
          detached: true,
          stdio: ['inherit', 'inherit', 'pipe', 'ipc'],
        });
        const lastWords = hear(child);
        const worker = { id, child };
        children.add(child);
        if (name === 'worker') workers.add(worker);
        child.on('message', (/** @type {unknown} */ message) => {
          if (message === 'ready') {
            wasReady = true;
            // It has dealt with what it was told.
            for (const death of told) if (untold.includes(death)) untold.splice(untold.indexOf(death), 1);
            resolve();
          } else if (isStalled(message)) message.stalled.forEach(replace);
          else if (isTally(message)) handedOn = { RUNDLE_WORKER_TALLY: JSON.stringify(message.tally) };
        });
        child.once('exit', (code, signal) => {
          children.delete(child);
          workers.delete(worker);
          if (ending) return;
          if (code === 1 && name === 'server' && !wasReady) stop(`The ${name} has ended (${code}). What it said stands above.`);
          // It gave its memory back, after it had signed off.
          if (name === 'worker' && code === RENEWED) return start();
          handedOn = {};
          if (name === 'worker') untold.push({ workerId: id, cause: causeOfDeath(code, signal, memoryKills) });
          const isInOrder = Date.now() - begun > IN_ORDER_AFTER;
          if (isInOrder) starts = 0;
          pause = isInOrder ? FIRST_PAUSE : Math.min(LONGEST_PAUSE, pause * (starts > 4 ? 1.5 : 1));
          const why = lastWords();
          const again = pause > 2 * FIRST_PAUSE ? `is started again in ${Math.round(pause / 1000)} s` : 'is started again';
          say(`The ${name} has ended (${signal ?? code}) and ${again}.${why ? ` It said: ${why}` : ''}`);
          setTimeout(start, pause);
        });
      };
      start();
    });

  await keep('server');
  await Promise.all(Array.from({ length: Math.max(2, availableParallelism()) }, (_, at) => keep('worker', at + 1)));
  // Nobody waits for made-up receivers, which the main work goes without.
  if (![environment['RUNDLE_STAND_INS'], environment['RUNDLE_FEED']].includes('off')) void keep('stand-ins');

  return async () => {
    ending = true;
    memoryKills.end();
    const all = [...children];
    for (const child of all) {
      child.kill('SIGTERM');
      child.kill('SIGCONT'); // one that is stopped would not hear of it
    }
    const ended = Promise.all(
      all.map(
        (child) =>
          new Promise((resolve) => (child.exitCode === null && child.signalCode === null ? child.once('exit', resolve) : resolve(0))),
      ),
    );
    const late = wait(15_000, undefined, { ref: false }).then(() => all.forEach((child) => child.kill('SIGKILL')));
    await Promise.race([ended, late.then(() => ended)]);
  };
}

/** @param {unknown} message @returns {message is { stalled: string[] }} */
const isStalled = (message) => typeof message === 'object' && message !== null && 'stalled' in message && Array.isArray(message.stalled);

/** @param {unknown} message @returns {message is { tally: unknown }} */
const isTally = (message) => typeof message === 'object' && message !== null && 'tally' in message;

/**
 * Passes on what a program says of errors.
 * @param {import('node:child_process').ChildProcess} child
 * @returns {() => string} gives its last line, shortened
 */
function hear(child) {
  let last = '';
  child.stderr?.setEncoding('utf8').on('data', (/** @type {string} */ text) => {
    process.stderr.write(text);
    last = (last + text).slice(-4000);
  });
  return () => {
    const lines = last.split('\n').map((line) => line.trim());
    // Of an error that nobody caught, the line that names it stands above where it came from.
    const told = lines.findLast((line) => /^(?:[A-Za-z]*Error|Error)\b/.test(line)) ?? lines.findLast(Boolean) ?? '';
    return told.slice(0, 300);
  };
}
