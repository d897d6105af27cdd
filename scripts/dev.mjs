// @ts-check
// npm run dev: the application with the demo set, restarted or reloaded on every change of a source, until Ctrl-C.
import { spawn } from 'node:child_process';
import { watch } from 'node:fs';
import { join, resolve } from 'node:path';
import { bundlePrograms, SOURCES } from './setup/bundle.mjs';
import { installDebianPackages, offerDebianPackages } from './setup/debian.mjs';
import { makeDemo } from './setup/demo.mjs';
import { lockDataFolder } from './setup/lock.mjs';
import { installPackages } from './setup/packages.mjs';
import { claimDataFolder, databaseOf, databasePackages } from './setup/postgres.mjs';
import { startPrograms } from './setup/programs.mjs';
import { say } from './setup/say.mjs';
import { ROOT } from './setup/stale.mjs';

/** Changes that come within so many ms are one: editors write several files at a time. */
const SETTLED_AFTER = 300;

const data = resolve(process.env['RUNDLE_DATA'] ?? join(ROOT, 'data-dev'));
const port = Number(process.env['PORT'] ?? 4830);
claimDataFolder(data);
process.once('exit', lockDataFolder(data));
installDebianPackages([...databasePackages(), 'perl']);
offerDebianPackages(['libturbojpeg0', 'libtiff6', 'libjxl-tools', 'libheif-examples']);
await installPackages();
await bundlePrograms();
const masters = process.env['RUNDLE_DEMO_MASTERS'] ?? (await makeDemo());
const postgres = await databaseOf(data, { durable: false });
const environment = {
  ...process.env,
  RUNDLE_DATABASE_URL: postgres.url,
  RUNDLE_DATA: data,
  RUNDLE_PORT: String(port),
  RUNDLE_WEB: join(ROOT, 'apps/web/public'),
  RUNDLE_DEMO_MASTERS: masters,
  RUNDLE_LOG: process.env['RUNDLE_LOG'] ?? 'info',
};
let endPrograms = await startPrograms(environment);

const page = spawn(join(ROOT, 'node_modules/.bin/ng'), ['serve', '--host', '127.0.0.1', '--port', String(port + 1)], {
  cwd: join(ROOT, 'apps/web'),
  stdio: ['ignore', 'inherit', 'inherit'],
  env: { ...process.env, NG_CLI_ANALYTICS: 'false', RUNDLE_DEV_SERVER: `http://127.0.0.1:${port}` },
});
say(`\nThe server is ready: http://127.0.0.1:${port}\nThe page comes in a moment: http://127.0.0.1:${port + 1}\nCtrl-C ends both.`);

/** @type {NodeJS.Timeout | undefined} */
let timer;
/** @type {Promise<void>} */
let restarting = Promise.resolve();
for (const source of SOURCES.filter((path) => !path.endsWith('.json')))
  watch(join(ROOT, source), { recursive: true }, (_, name) => {
    // The page's own server follows these itself; tests are in no program.
    if (name?.endsWith('.test.ts') || name?.endsWith('binary.ts')) return;
    clearTimeout(timer);
    timer = setTimeout(() => (restarting = restarting.then(restart)), SETTLED_AFTER);
  });

async function restart() {
  if (ending) return;
  say('A source has changed: the server and the workers are started again.');
  await endPrograms();
  endPrograms = () => Promise.resolve();
  try {
    await bundlePrograms();
  } catch {
    say('It does not build. The server and the workers come back with the next change that does.');
    return;
  }
  endPrograms = await startPrograms(environment);
}

let ending = false;
async function end() {
  if (ending) return;
  ending = true;
  page.kill('SIGTERM');
  await restarting;
  await endPrograms();
  await postgres.end();
  process.exit(0);
}
process.on('SIGINT', () => void end());
process.on('SIGTERM', () => void end());
page.once('exit', () => void end());
