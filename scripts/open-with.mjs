// @ts-check
// Opens files of this machine in Rundle, in the browser: `node scripts/open-with.mjs FILE …`; with --print it only tells the address.
import { spawn } from 'node:child_process';
import { join, resolve } from 'node:path';
import { launchAddress, portOf } from './setup/desktop-entry.mjs';
import { holderOf } from './setup/lock.mjs';
import { say, stop } from './setup/say.mjs';
import { ROOT } from './setup/stale.mjs';

const args = process.argv.slice(2);
const paths = args.filter((arg) => arg !== '--print');
const data = resolve(process.env['RUNDLE_DATA'] ?? join(ROOT, 'data'));
const address = launchAddress(paths, portOf(data));
if (args.includes('--print')) say(address);
else {
  if (holderOf(data) === null)
    stop(`Rundle is not running on ${data}. Start it with “npm start” in ${ROOT}, then open the pictures again.`);
  const child = spawn('xdg-open', [address], { stdio: 'ignore', detached: true });
  child.once('error', () => stop(`The browser could not be opened. Open this address in it: ${address}`));
  child.unref();
}
