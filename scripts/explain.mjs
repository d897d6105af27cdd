// @ts-check
// npm run explain: makes the small pictures that explain the rungs of a preset (see explain.ts), from the demo masters.
import { spawnSync } from 'node:child_process';
import { ROOT } from './setup/stale.mjs';

const { status } = spawnSync(process.execPath, ['--import', 'tsx', 'scripts/explain.ts'], { cwd: ROOT, stdio: 'inherit' });
process.exit(status ?? 1);
