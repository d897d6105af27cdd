// @ts-check
// npm start: sets everything up on a fresh Debian machine, then serves the application until Ctrl-C.
import { createServer } from 'node:net';
import { join, resolve } from 'node:path';
import { installDebianPackages, offerDebianPackages } from './setup/debian.mjs';
import { bundlePrograms } from './setup/bundle.mjs';
import { ROOT } from './setup/stale.mjs';
import { makeDemo } from './setup/demo.mjs';
import { lockDataFolder } from './setup/lock.mjs';
import { installPackages } from './setup/packages.mjs';
import { claimDataFolder, databaseOf, databasePackages } from './setup/postgres.mjs';
import { startPrograms } from './setup/programs.mjs';
import { say, stop } from './setup/say.mjs';
import { buildWeb } from './setup/web.mjs';

const data = resolve(process.env['RUNDLE_DATA'] ?? join(ROOT, 'data'));
const port = Number(process.env['PORT'] ?? 4820);
if (!Number.isInteger(port) || port < 1 || port > 65_535) stop(`PORT=${process.env['PORT']} is no port. Choose a number from 1 to 65535.`);
await refuseTakenPort();
claimDataFolder(data);
const unlock = lockDataFolder(data, port);
process.once('exit', unlock);

installDebianPackages([...databasePackages(), 'perl']);
offerDebianPackages(['libturbojpeg0', 'libtiff6', 'libjxl-tools', 'libheif-examples']);
await installPackages();
await bundlePrograms();
buildWeb();
const masters = process.env['RUNDLE_DEMO_MASTERS'] ?? (await makeDemo());

const postgres = await databaseOf(data, { durable: process.env['RUNDLE_DURABLE'] !== 'no' });
const endPrograms = await startPrograms({
  ...process.env,
  RUNDLE_DATABASE_URL: postgres.url,
  RUNDLE_DATA: data,
  RUNDLE_PORT: String(port),
  RUNDLE_WEB: join(ROOT, 'dist/web/browser'),
  RUNDLE_DEMO_MASTERS: masters,
  RUNDLE_LOG: process.env['RUNDLE_LOG'] ?? 'warn',
});
say(`\nRundle is ready: http://127.0.0.1:${port}\nCtrl-C ends it.`);

let ending = false;
async function end() {
  if (ending) return;
  ending = true;
  await endPrograms();
  await postgres.end();
  process.exit(0);
}
process.on('SIGINT', () => void end());
process.on('SIGTERM', () => void end());
// When npm or the terminal is gone, so is the one who would press Ctrl-C.
const parent = process.ppid;
setInterval(() => process.ppid !== parent && void end(), 1000);
function refuseTakenPort() {
  return new Promise((resolve) => {
    const probe = createServer();
    probe.once('error', (/** @type {NodeJS.ErrnoException} */ error) =>
      stop(
        error.code === 'EADDRINUSE'
          ? `Port ${port} is taken by another program. End that one, or choose another port: PORT=${port + 1} npm start`
          : `Port ${port} cannot be used (${error.code}). Choose another one: PORT=4821 npm start`,
      ),
    );
    probe.listen(port, '127.0.0.1', () => probe.close(() => resolve(undefined)));
  });
}
