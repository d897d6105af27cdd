// @ts-check
// npm run bench [-- part ...]: sets up what is compared with, runs the comparisons, writes docs/bench.md.
import { spawnSync } from 'node:child_process';
import { bundlePrograms } from './setup/bundle.mjs';
import { ROOT } from './setup/stale.mjs';
import { installDebianPackages } from './setup/debian.mjs';
import { makeDemo } from './setup/demo.mjs';
import { installPackages } from './setup/packages.mjs';

installDebianPackages(['perl', 'libvips-tools', 'imagemagick', 'icc-profiles-free', 'chromium', 'chromium-driver', 'postgresql', 'curl']);
await installPackages();
await bundlePrograms();
await makeDemo();
const { status } = spawnSync(process.execPath, ['--import', 'tsx', 'bench/src/main.ts', ...process.argv.slice(2)], {
  cwd: ROOT,
  stdio: 'inherit',
});
process.exit(status ?? 1);
