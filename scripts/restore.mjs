// @ts-check
// npm run restore -- FOLDER: a backup becomes a data folder again, whole or not at all.
import { existsSync, mkdirSync, readdirSync, readFileSync, renameSync, rmdirSync, rmSync, writeFileSync } from 'node:fs';
import { join, resolve } from 'node:path';
import { parseArgs } from 'node:util';
import { bundlePrograms } from './setup/bundle.mjs';
import { installDebianPackages } from './setup/debian.mjs';
import { keeper, passphraseOf } from './setup/keeper.mjs';
import { installPackages } from './setup/packages.mjs';
import { claimDataFolder, databaseOf, databasePackages, removeCluster } from './setup/postgres.mjs';
import { ROOT } from './setup/stale.mjs';
import { say, stop } from './setup/say.mjs';

const USAGE = `npm run restore -- FOLDER [--backup NAME] [--passphrase-file FILE | --identity-file FILE]
FOLDER holds backups; the newest is restored unless one is named. It becomes the data folder RUNDLE_DATA, or ./data, which has to be empty or not
there yet. The key to passwords of receivers is opened by the passphrase, or the private key of age, in a file; without it they are typed in again.`;

const { positionals, values } = readArgs();
const [folder] = positionals;
if (!folder || positionals.length > 1) stop(USAGE);
const data = resolve(process.env['RUNDLE_DATA'] ?? join(ROOT, 'data'));
if (existsSync(data) && readdirSync(data).length > 0)
  stop(`${data} is not empty, so that nothing was restored. Name an empty folder: RUNDLE_DATA=FOLDER npm run restore -- ...`);
installDebianPackages([...databasePackages(), 'perl']);
await installPackages();
await bundlePrograms();

/** Until it is whole it has another name; a restore that was cut off leaves it, and the next one begins anew. */
const part = `${data}.restoring`;
const NOTE = 'restoring.txt';
if (existsSync(part)) {
  if (!existsSync(join(part, NOTE))) stop(`${part} is in the way. Move it away, then try again.`);
  removePart();
}
claimDataFolder(part);
writeFileSync(join(part, NOTE), 'A backup is being restored here.\n');
process.once('SIGINT', () => process.exit(1));
const from = ['--folder', resolve(folder), ...(values.backup === undefined ? [] : ['--backup', values.backup])];

const postgres = await databaseOf(part, { durable: true });
const database = await keeper(['restore-database', ...from], { RUNDLE_DATABASE_URL: postgres.url });
await postgres.end();
const identity = values['identity-file'];
const files = database.problem
  ? database
  : await keeper(['restore-files', '--data', join(part, 'files'), ...['--folder', resolve(folder), '--backup', database.name]], {
      ...passphraseOf(values['passphrase-file']),
      ...(identity === undefined ? {} : { RUNDLE_BACKUP_IDENTITY: privateKey(identity) }),
    });
if (files.problem) {
  removePart();
  stop(files.problem);
}
mkdirSync(join(part, 'files'), { recursive: true });
for (const name of readdirSync(join(part, 'files'))) renameSync(join(part, 'files', name), join(part, name));
rmdirSync(join(part, 'files'));
rmSync(join(part, NOTE));
if (existsSync(data)) rmdirSync(data);
renameSync(part, data);
say(`The backup ${files.name} is the data folder ${data} now: ${files.files} files. Start it as ever (npm start).`);
if (files.secrets === 'sealed') say('The key to passwords of receivers is sealed, and was not opened: type the passwords in again.');
if (files.secrets === 'none') say('The key to passwords of receivers is not in it: where a receiver has one, type it in again.');
const { masters, outputs } = files.notIn;
if (masters) say(`Not in it: ${masters} pictures that lay on the machine; they are found again where they lie at the same place.`);
if (outputs) say(`Not in it: ${outputs} files that were written outside the data folder.`);
process.exit(0);

function removePart() {
  removeCluster(part);
  rmSync(part, { recursive: true, force: true });
}

/** The line of a file of age that is a private key. @param {string} file */
function privateKey(file) {
  const text = existsSync(file) ? readFileSync(file, 'utf8') : '';
  return /^AGE-SECRET-KEY-\S+$/m.exec(text)?.[0] ?? stop(`${file} holds no private key of age (AGE-SECRET-KEY-…).`);
}

function readArgs() {
  try {
    return parseArgs({
      options: { backup: { type: 'string' }, 'passphrase-file': { type: 'string' }, 'identity-file': { type: 'string' } },
      allowPositionals: true,
    });
  } catch (error) {
    return stop(`${error instanceof Error ? error.message : error}\n${USAGE}`);
  }
}
