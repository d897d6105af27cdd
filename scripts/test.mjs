// @ts-check
// npm test: sets everything up, then lint, formatting, types and all tests. Ends with a line "N passed, N failed".
// npm test -- NAME runs the tests of one project only: core, render, server, browser.
import { spawn } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { bundlePrograms } from './setup/bundle.mjs';
import { ROOT } from './setup/stale.mjs';
import { installDebianPackages } from './setup/debian.mjs';
import { installPackages } from './setup/packages.mjs';
import { startPostgres } from './setup/postgres.mjs';
import { say } from './setup/say.mjs';
import { buildWeb } from './setup/web.mjs';

const only = process.argv[2];
installDebianPackages([
  'postgresql',
  'perl',
  'chromium',
  'chromium-driver',
  'libimage-exiftool-perl',
  'imagemagick',
  'liblcms2-utils',
  'mate-backgrounds',
]);
await installPackages();
await bundlePrograms();
if (!only || only === 'browser') buildWeb();

const folder = mkdtempSync(join(tmpdir(), 'rundle-tests-'));
const postgres = await startPostgres(folder, { durable: false });
const results = join(folder, 'results.json');
let passed = 0;
let failed = 0;
try {
  if (!only) {
    for (const [what, command] of /** @type {[string, string[]][]} */ ([
      ['formatting', ['node_modules/.bin/prettier', '--check', '--log-level', 'warn', '.']],
      ['lint', ['node_modules/.bin/eslint', '.']],
      ['types', [process.execPath, 'scripts/typecheck.mjs']],
    ])) {
      say(`Checking ${what} ...`);
      if ((await run(command)) === 0) passed++;
      else failed++;
    }
  }
  const projects = only ? ['--project', only] : [];
  const code = await run([
    'node_modules/.bin/vitest',
    'run',
    ...projects,
    '--reporter=default',
    '--reporter=json',
    `--outputFile.json=${results}`,
  ]);
  const { numPassedTests, numFailedTests, numFailedTestSuites } = JSON.parse(readFileSync(results, 'utf8'));
  passed += numPassedTests;
  // A file that could not even be loaded has no failed tests, but is a failure all the same.
  failed += numFailedTests || (code === 0 ? 0 : Math.max(1, numFailedTestSuites));
} catch (error) {
  process.stderr.write(`${error}\n`);
  failed++;
} finally {
  await postgres.end();
  rmSync(folder, { recursive: true, force: true });
}
say(`${passed} passed, ${failed} failed`);
process.exit(failed ? 1 : 0);

/** @param {string[]} command @returns {Promise<number>} */
function run([program = '', ...args]) {
  const env = { ...process.env, RUNDLE_TEST_DATABASE_URL: postgres.url };
  const child = spawn(program, args, { cwd: ROOT, stdio: ['ignore', 'inherit', 'inherit'], env });
  return new Promise((resolve) => child.once('exit', (code) => resolve(code ?? 1)));
}
