// @ts-check
import { spawnSync } from 'node:child_process';
import { utimesSync } from 'node:fs';
import { join } from 'node:path';
import { isStale, ROOT } from './stale.mjs';
import { say, stop } from './say.mjs';

/** Builds the web application into `dist/web`, unless nothing has changed since the last time. */
export function buildWeb() {
  const index = join(ROOT, 'dist/web/browser/index.html');
  const sources = [
    'apps/web/src',
    'apps/web/public',
    'apps/web/angular.json',
    'apps/web/tsconfig.app.json',
    'apps/web/tsconfig.json',
    'packages/core/src',
    'package-lock.json',
  ];
  if (!isStale(index, sources)) return;
  say('Building the web application (about a minute) ...');
  const { status, stdout, stderr } = spawnSync(join(ROOT, 'node_modules/.bin/ng'), ['build'], {
    cwd: join(ROOT, 'apps/web'),
    encoding: 'utf8',
    env: { ...process.env, NG_CLI_ANALYTICS: 'false' },
  });
  if (status !== 0) stop(`The web application could not be built:\n${stdout}\n${stderr}`);
  const now = new Date();
  utimesSync(index, now, now);
}
