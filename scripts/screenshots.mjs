// @ts-check
// npm run screenshots: makes the pictures in docs/screenshots anew from the demo set.
import { spawnSync } from 'node:child_process';
import { bundlePrograms } from './setup/bundle.mjs';
import { ROOT } from './setup/stale.mjs';
import { installDebianPackages } from './setup/debian.mjs';
import { makeDemo } from './setup/demo.mjs';
import { installPackages } from './setup/packages.mjs';
import { buildWeb } from './setup/web.mjs';

installDebianPackages(['postgresql', 'perl', 'chromium', 'chromium-driver']);
await installPackages();
await bundlePrograms();
buildWeb();
await makeDemo();
const { status } = spawnSync(process.execPath, ['--import', 'tsx', 'e2e/src/screenshots.ts'], { cwd: ROOT, stdio: 'inherit' });
process.exit(status ?? 1);
