// @ts-check
// Checks the types of every part of the project, two at a time.
import { spawn } from 'node:child_process';
import { join } from 'node:path';
import { compileKernels } from './setup/kernels.mjs';
import { ROOT } from './setup/stale.mjs';

const parts = [
  '.',
  'packages/core',
  'packages/render',
  'packages/store',
  'packages/watch',
  'apps/server',
  'apps/worker',
  'apps/web',
  'stand-ins',
  'demo',
  'e2e',
  'bench',
  'scripts',
];
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
