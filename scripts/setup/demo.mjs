// @ts-check
import { spawn } from 'node:child_process';
import { join } from 'node:path';
import { ROOT } from './stale.mjs';
import { say, stop } from './say.mjs';

/**
 * Makes the demo masters where they are missing; about a minute the first time.
 * @param {string} [folder] where they go
 * @param {number} [scale] shrinks all of them, for tests
 * @returns {Promise<string>} their folder
 */
export async function makeDemo(folder = join(ROOT, 'demo/masters'), scale = 1) {
  const child = spawn(process.execPath, [join(ROOT, 'dist/demo.js'), folder, String(scale)], { stdio: ['ignore', 'pipe', 'inherit'] });
  child.stdout.setEncoding('utf8').on('data', (/** @type {string} */ lines) =>
    lines
      .trim()
      .split('\n')
      .forEach((line) => say(`Making ${line}`)),
  );
  const code = await new Promise((resolve) => child.once('exit', resolve));
  if (code !== 0) stop('The demo pictures could not be made; what went wrong stands above.');
  return folder;
}
