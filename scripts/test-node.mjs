// @ts-check
// npm run test:node -- 24 [22 ...]: runs the tests of core, render, store and the command line on other versions of Node.js.
import { spawnSync } from 'node:child_process';
import { existsSync, mkdirSync, readdirSync } from 'node:fs';
import { arch } from 'node:os';
import { delimiter, join } from 'node:path';
import { ROOT } from './setup/stale.mjs';
import { say, stop } from './setup/say.mjs';

const versions = process.argv.slice(2);
if (versions.length === 0 || versions.some((version) => !/^\d+(\.\d+)*$/.test(version)))
  stop('Say on which versions of Node.js, for instance: npm run test:node -- 24');

for (const version of versions) {
  const bin = programOf(version);
  const env = { ...process.env, PATH: `${bin}${delimiter}${process.env['PATH']}` };
  say(`On Node.js ${spawnSync('node', ['--version'], { env, encoding: 'utf8' }).stdout.trim()}:`);
  // The command line's tests are among those of render; those of store are in the project that has a database.
  for (const args of [
    ['core', 'render'],
    ['server', 'packages/store'],
  ]) {
    const { status } = spawnSync('node', ['scripts/test.mjs', ...args], { cwd: ROOT, env, stdio: 'inherit' });
    if (status !== 0) stop(`Tests failed on Node.js ${version}.`);
  }
}

/**
 * The folder of that version's program, from the npm package that carries it.
 * @param {string} version
 */
function programOf(version) {
  const folder = join(ROOT, 'node_modules/.cache/node', version);
  const bin = join(folder, 'package/bin');
  if (existsSync(bin)) return bin;
  mkdirSync(folder, { recursive: true });
  const name = `node-linux-${arch()}@${version}`;
  say(`Fetching ${name} from the npm registry ...`);
  const packed = spawnSync('npm', ['pack', name, '--silent', '--pack-destination', folder], { encoding: 'utf8' });
  const [file] = readdirSync(folder).filter((one) => one.endsWith('.tgz'));
  if (packed.status !== 0 || !file) stop(`${name} could not be fetched:\n${packed.stderr}`);
  const opened = spawnSync('tar', ['-xzf', join(folder, file ?? ''), '-C', folder], { encoding: 'utf8' });
  if (opened.status !== 0) stop(`${name} could not be opened:\n${opened.stderr}`);
  return bin;
}
