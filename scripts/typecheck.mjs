// @ts-check
// Checks the types of every part of the project, two at a time. With --built, of the pages only the unit tests: all else in there was
// checked when it was built, and when its component tests were.
import { spawn } from 'node:child_process';
import { join } from 'node:path';
import { compileKernels } from './setup/kernels.mjs';
import { ROOT } from './setup/stale.mjs';

/** All that runs on Node.js is one program, so that what everything stands on is read once; the others have rules of their own. */
const parts = [process.argv.includes('--built') ? 'apps/web/tsconfig.unit-tests.json' : 'apps/web', '.', 'packages/core', 'scripts'];
await compileKernels();
let failed = false;
const queue = parts[Symbol.iterator]();

async function work() {
  for (const part of queue) {
    const [program, ...args] = part === 'apps/web' ? ['ngc', '--noEmit', '-p', part] : ['tsc', '-p', part];
    const child = spawn(join(ROOT, 'node_modules/.bin', program ?? ''), args, { cwd: ROOT, stdio: 'inherit' });
    if ((await new Promise((resolve) => child.once('exit', resolve))) !== 0) failed = true;
  }
}

await Promise.all([work(), work()]);
process.exitCode = failed ? 1 : 0;
