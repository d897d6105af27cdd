import { setPriority } from 'node:os';
import { resolve } from 'node:path';
import { parseArgs } from 'node:util';
import { SealKey } from '@rundle/core';
import { databaseAddress } from '@rundle/store';
import { makeBackup } from './make-backup';
import { BackupProblem } from './repository';
import { checkedBackup, restoreDatabase, restoreFiles } from './restore-backup';
import type { Opener, Seal } from './seal';

/*
 * Makes a backup, or restores one. Started by the server on its schedule, or by npm run backup and npm run restore, which see to the database. One
 * line of JSON says what came of it. A passphrase or a private key comes by the environment, where no list of processes shows it.
 */

setPriority(5);
const { positionals, values } = parseArgs({
  options: {
    data: { type: 'string' },
    folder: { type: 'string' },
    backup: { type: 'string' },
    'seal-key': { type: 'string' },
  },
  allowPositionals: true,
});
const passphrase = process.env['RUNDLE_BACKUP_PASSPHRASE'] ?? '';
const identity = process.env['RUNDLE_BACKUP_IDENTITY'] ?? '';
const folder = resolve(values.folder ?? '');
const data = resolve(values.data ?? '');

const say = (told: object): void => void process.stdout.write(`${JSON.stringify(told)}\n`);

function sealOf(): Seal | null {
  const recipient = values['seal-key'];
  if (recipient !== undefined) {
    const key = SealKey.safeParse(recipient);
    if (!key.success) throw new BackupProblem(`The key to seal for has to be ${key.error.issues[0]?.message}.`);
    return { kind: 'key', recipient: key.data };
  }
  return passphrase ? { kind: 'passphrase', passphrase } : null;
}

function openerOf(): Opener | null {
  if (identity) return { kind: 'key', identity };
  return passphrase ? { kind: 'passphrase', passphrase } : null;
}

function databaseUrl(): string {
  const url = process.env['RUNDLE_DATABASE_URL'];
  if (!url) throw new BackupProblem('RUNDLE_DATABASE_URL has to be the address of the database.');
  try {
    return databaseAddress(url);
  } catch (error) {
    throw new BackupProblem(`RUNDLE_DATABASE_URL is wrong: ${error instanceof Error ? error.message : String(error)}.`);
  }
}

async function work(): Promise<object> {
  switch (positionals[0]) {
    case 'backup':
      return makeBackup({ databaseUrl: databaseUrl(), data }, folder, sealOf());
    case 'restore-files': {
      const found = await checkedBackup(folder, values.backup ?? null, openerOf());
      await restoreFiles(found, data);
      const { name, record, key } = found;
      return {
        name,
        files: record.files.length,
        notIn: record.notIn,
        secrets: record.secrets === null ? 'none' : key ? 'opened' : 'sealed',
      };
    }
    case 'restore-database': {
      const found = await checkedBackup(folder, values.backup ?? null, null, 'database');
      await restoreDatabase(found, databaseUrl());
      return { name: found.name };
    }
    default:
      throw new BackupProblem('The first word has to be backup, restore-files or restore-database.');
  }
}

try {
  say(await work());
} catch (error) {
  const isTold = error instanceof BackupProblem;
  say({ problem: isTold ? error.message : `It failed: ${error instanceof Error ? error.message : String(error)}` });
  process.exitCode = isTold ? 3 : 1;
}
