// @ts-check
// npm run storm [-- --seed N --faults N --pictures N]: kills and pauses parts of the application while it works, and counts the damage.
import { spawnSync } from 'node:child_process';
import { bundlePrograms } from './setup/bundle.mjs';
import { installDebianPackages } from './setup/debian.mjs';
import { installPackages } from './setup/packages.mjs';
import { ROOT } from './setup/stale.mjs';
import { buildWeb } from './setup/web.mjs';

installDebianPackages(['postgresql', 'perl']);
await installPackages();
await bundlePrograms();
buildWeb();
const { status } = spawnSync(process.execPath, ['--import', 'tsx', 'e2e/src/storm/main.ts', ...process.argv.slice(2)], {
  cwd: ROOT,
  stdio: 'inherit',
});
process.exit(status ?? 1);
