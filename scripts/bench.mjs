// @ts-check
// npm run bench [-- part ...]: sets up what is compared with, runs the comparisons, writes docs/bench.md; `check` says which lines are older
// than what they measure; `guard` tells the pace in a minute or two, and writes nothing.
import { spawnSync } from 'node:child_process';
import { bundlePrograms } from './setup/bundle.mjs';
import { ROOT } from './setup/stale.mjs';
import { installDebianPackages } from './setup/debian.mjs';
import { makeDemo } from './setup/demo.mjs';
import { installPackages } from './setup/packages.mjs';

const parts = process.argv.slice(2);
/** Neither makes anything that stays. */
const isQuick = parts[0] === 'check' || parts[0] === 'guard';
if (!isQuick)
  installDebianPackages([
    'perl',
    'libturbojpeg0',
    'libtiff6',
    'libjpeg-turbo-progs',
    'libvips-tools',
    'imagemagick',
    'icc-profiles-free',
    'chromium',
    'chromium-driver',
    'postgresql',
    'curl',
  ]);
await installPackages();
await bundlePrograms();
if (!isQuick) await makeDemo();
const { status } = spawnSync(process.execPath, ['--import', 'tsx', 'bench/src/main.ts', ...parts], {
  cwd: ROOT,
  stdio: 'inherit',
});
process.exit(status ?? 1);
