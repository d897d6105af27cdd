// @ts-check
// npm run test:node -- 24 [22 ...] [all]: runs the tests on other versions of Node.js: of core, render, store and the command line, or all of
// them, the server's and the page's, too.
import { spawnSync } from 'node:child_process';
import { existsSync, mkdirSync, readdirSync } from 'node:fs';
import { arch } from 'node:os';
import { delimiter, join } from 'node:path';
import { ROOT } from './setup/stale.mjs';
import { say, stop } from './setup/say.mjs';

const args = process.argv.slice(2);
const versions = args.filter((arg) => arg !== 'all');
/** What the tests are called with, one call after the other; the command line's are among those of render, those of store need a database. */
const calls = args.includes('all')
  ? [[]]
  : [
      ['core', 'render'],
      ['server', 'packages/store'],
    ];
if (versions.length === 0 || versions.some((version) => !/^\d+(\.\d+)*$/.test(version)))
  stop('Say on which versions of Node.js, for instance: npm run test:node -- 24 all');

for (const version of versions) {
  const bin = programOf(version);
  const env = { ...process.env, PATH: `${bin}${delimiter}${process.env['PATH']}` };
  say(`On Node.js ${spawnSync('node', ['--version'], { env, encoding: 'utf8' }).stdout.trim()}:`);
  for (const call of calls) {
    const { status } = spawnSync('node', ['scripts/test.mjs', ...call], { cwd: ROOT, env, stdio: 'inherit' });
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
