// @ts-check
import { fork } from 'node:child_process';
import { availableParallelism } from 'node:os';
import { join } from 'node:path';
import { setTimeout as wait } from 'node:timers/promises';
import { ROOT } from './stale.mjs';
import { say, stop } from './say.mjs';

/** A program that ends this often within a minute has a fault that starting again does not mend. */
const MOST_STARTS = 8;

/**
 * Starts the server and the workers, starts each again when it dies, and ends them all.
 * @param {NodeJS.ProcessEnv} environment
 */
export async function startPrograms(environment) {
  let ending = false;
  /** @type {Set<import('node:child_process').ChildProcess>} */
  const children = new Set();

  /** @param {string} name @returns {Promise<void>} resolves when it is ready */
  const keep = (name) =>
    new Promise((resolve) => {
      /** @type {number[]} */
      const starts = [];
      const start = () => {
        starts.push(Date.now());
        // Detached: Ctrl-C in the terminal reaches this program only, which then ends the others in order.
        const child = fork(join(ROOT, 'dist', `${name}.js`), [], { env: environment, cwd: ROOT, detached: true });
        children.add(child);
        child.on('message', () => resolve());
        child.once('exit', (code, signal) => {
          children.delete(child);
          if (ending) return;
          const recent = starts.filter((time) => Date.now() - time < 60_000).length;
          if (recent >= MOST_STARTS || (code === 1 && name === 'server' && starts.length === 1))
            stop(`The ${name} has ended (${signal ?? code}). What it said stands above.`);
          say(`The ${name} has ended (${signal ?? code}) and is started again.`);
          setTimeout(start, 500);
        });
      };
      start();
    });

  await keep('server');
  await Promise.all(Array.from({ length: Math.max(2, availableParallelism()) }, () => keep('worker')));

  return async () => {
    ending = true;
    const all = [...children];
    for (const child of all) child.kill('SIGTERM');
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
