// @ts-check
import { spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { ROOT } from './stale.mjs';

const STAMP = join(ROOT, 'node_modules/.rundle-installed');

/** Installs the packages that the lockfile names, unless they are there. Says so on standard error: standard output belongs to the caller. */
export async function installPackages() {
  const wanted = createHash('sha256')
    .update(readFileSync(join(ROOT, 'package-lock.json')))
    .digest('hex');
  if (existsSync(STAMP) && readFileSync(STAMP, 'utf8') === wanted) return;
  process.stderr.write('Installing packages from the npm registry (npm ci) ...\n');
  const { status } = spawnSync('npm', ['ci', '--ignore-scripts', '--no-audit', '--no-fund'], { cwd: ROOT, stdio: ['ignore', 2, 2] });
  if (status !== 0) {
    process.stderr.write('\nThe packages could not be installed. Check the connection to the npm registry, then start again.\n');
    process.exit(1);
  }
  writeFileSync(STAMP, wanted);
}
