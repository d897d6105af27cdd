// @ts-check
// npm run backup -- FOLDER: a backup of the data folder, while Rundle runs or not.
import { existsSync } from 'node:fs';
import { join, resolve } from 'node:path';
import { parseArgs } from 'node:util';
import { bundlePrograms } from './setup/bundle.mjs';
import { installDebianPackages } from './setup/debian.mjs';
import { keeper, passphraseOf } from './setup/keeper.mjs';
import { holderOf, lockDataFolder } from './setup/lock.mjs';
import { installPackages } from './setup/packages.mjs';
import { databaseOf, databasePackages, runningPostgres } from './setup/postgres.mjs';
import { ROOT } from './setup/stale.mjs';
import { say, stop } from './setup/say.mjs';

const USAGE = `npm run backup -- FOLDER [--passphrase-file FILE | --seal-key age1…]
FOLDER is empty, not there yet, or holds earlier backups. The key to passwords of receivers is left out unless it is sealed: by the passphrase in a
file, or for a public key of age. The data folder is RUNDLE_DATA, or ./data.`;

const { positionals, values } = readArgs();
const [folder] = positionals;
if (!folder || positionals.length > 1) stop(USAGE);
const data = resolve(process.env['RUNDLE_DATA'] ?? join(ROOT, 'data'));
if (!existsSync(join(data, 'studio.json')))
  stop(`There is no studio in ${data}. Name its data folder: RUNDLE_DATA=FOLDER npm run backup -- ...`);
installDebianPackages(databasePackages());
await installPackages();
await bundlePrograms();

const isRunning = holderOf(data) !== null;
const unlock = isRunning ? () => {} : lockDataFolder(data);
process.once('exit', unlock);
const postgres = isRunning ? await runningPostgres(data) : await databaseOf(data, { durable: true });
const seal = values['seal-key'] === undefined ? [] : ['--seal-key', values['seal-key']];
const told = await keeper(['backup', '--data', data, '--folder', resolve(folder), ...seal], {
  RUNDLE_DATABASE_URL: postgres.url,
  ...passphraseOf(values['passphrase-file']),
});
await postgres.end();
if (told.problem) stop(told.problem);
say(`Backup ${told.name}: ${told.files} files, ${megabytes(told.bytes)}, of which ${megabytes(told.newBytes)} are new.`);
if (told.thinned) say(`${told.thinned} earlier ${told.thinned === 1 ? 'backup was' : 'backups were'} thinned out.`);
if (told.notIn.masters) say(`Not in it: ${told.notIn.masters} pictures that stay where they are on this machine.`);
if (told.notIn.outputs) say(`Not in it: ${told.notIn.outputs} files that were written outside the data folder.`);
process.exit(0);

/** @param {number} bytes */
function megabytes(bytes) {
  return `${(bytes / 1e6).toFixed(1)} MB`;
}

function readArgs() {
  try {
    return parseArgs({ options: { 'passphrase-file': { type: 'string' }, 'seal-key': { type: 'string' } }, allowPositionals: true });
  } catch (error) {
    return stop(`${error instanceof Error ? error.message : error}\n${USAGE}`);
  }
}
