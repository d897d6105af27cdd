// @ts-check
import { spawn } from 'node:child_process';
import { existsSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { stop } from './say.mjs';
import { ROOT } from './stale.mjs';

/**
 * Calls the program that makes and restores backups.
 * @param {string[]} args
 * @param {NodeJS.ProcessEnv} environment
 * @returns {Promise<any>} what it says: what came of it, or `problem`
 */
export async function keeper(args, environment) {
  const child = spawn(process.execPath, [join(ROOT, 'dist/keeper.js'), ...args], {
    env: { ...process.env, ...environment },
    stdio: ['ignore', 'pipe', 'inherit'],
  });
  let said = '';
  child.stdout.setEncoding('utf8').on('data', (text) => (said += text));
  await new Promise((resolve) => child.once('close', resolve));
  try {
    return JSON.parse(said);
  } catch {
    return { problem: 'The program that makes backups ended without a word.' };
  }
}

/** The passphrase in a file, without its last line break. @param {string | undefined} file @returns {NodeJS.ProcessEnv} */
export function passphraseOf(file) {
  if (file === undefined) return {};
  if (!existsSync(file)) stop(`${file} is not there. Write the passphrase into it, or leave it out.`);
  const passphrase = readFileSync(file, 'utf8').replace(/\r?\n$/, '');
  if (passphrase.length < 8) stop(`The passphrase in ${file} has to have 8 letters at least.`);
  return { RUNDLE_BACKUP_PASSPHRASE: passphrase };
}
