// @ts-check
// npm test: sets everything up, then lint, formatting, types and all tests. Ends with a line "N passed, N failed".
// npm test -- NAME ... runs the tests of some projects only (core, component, render, server, browser) and sets up only what they need.
// npm test -- [NAME ...] [FILE ...] [--watch] runs some files only, or again whenever one changes.
import { spawn } from 'node:child_process';
import { existsSync, mkdirSync, mkdtempSync, openSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join, relative } from 'node:path';
import { bundlePrograms } from './setup/bundle.mjs';
import { ROOT } from './setup/stale.mjs';
import { installDebianPackages } from './setup/debian.mjs';
import { compileKernels } from './setup/kernels.mjs';
import { installPackages } from './setup/packages.mjs';
import { startPostgres } from './setup/postgres.mjs';
import { say } from './setup/say.mjs';
import { buildWeb } from './setup/web.mjs';

/**
 * What the tests of each project need beside the packages.
 * @type {Record<string, { debian: Parameters<typeof installDebianPackages>[0]; programs: boolean; database: boolean; page: boolean }>}
 */
const NEEDS = {
  core: { debian: ['desktop-file-utils'], programs: false, database: false, page: false },
  // Angular compiles these and runs them in jsdom.
  component: { debian: [], programs: false, database: false, page: false },
  render: {
    debian: [
      'perl',
      'libimage-exiftool-perl',
      'imagemagick',
      'liblcms2-utils',
      'mate-backgrounds',
      'icc-profiles-free',
      'libjxl-tools',
      'libturbojpeg0',
      'libtiff6',
      'libheif-examples',
      'poppler-utils',
    ],
    programs: true,
    database: false,
    page: false,
  },
  server: {
    debian: ['postgresql', 'perl', 'libjxl-tools', 'libturbojpeg0', 'libtiff6', 'openssl', 'apache2-bin', 'openssh-server', 'pgbouncer'],
    programs: true,
    database: true,
    page: false,
  },
  browser: {
    debian: [
      'postgresql',
      'perl',
      'chromium',
      'chromium-driver',
      'libimage-exiftool-perl',
      'poppler-utils',
      'libheif-examples',
      'imagemagick',
      'libjxl-tools',
      'libturbojpeg0',
      'libtiff6',
    ],
    programs: true,
    database: true,
    page: true,
  },
};

const args = process.argv.slice(2);
const watch = args.includes('--watch');
const named = args.filter((arg) => arg in NEEDS);
/** Files or parts of their names, and what else vitest takes. */
const rest = args.filter((arg) => !(arg in NEEDS) && arg !== '--watch');
const whole = args.length === 0;
const needs = Object.entries(NEEDS).flatMap(([name, need]) => (named.length === 0 || named.includes(name) ? [need] : []));

// For the pace, which a whole run tells at its end.
const debian = [...new Set([...needs.flatMap((need) => need.debian), ...(whole ? /** @type {const} */ (['libvips-tools']) : [])])];
if (debian.length) installDebianPackages(debian);
await installPackages();
if (needs.some(({ programs }) => programs)) await bundlePrograms();
else await compileKernels();
if (needs.some(({ page }) => page)) buildWeb();

/** A whole run takes about 25 minutes, on a busy machine twice that. One in which everything waits in vain tells what it has seen by then, in ms. */
const LONGEST = 70 * 60_000;
/** Programs at work. @type {Set<import('node:child_process').ChildProcess>} */
const atWork = new Set();
let late = false;

const folder = mkdtempSync(join(tmpdir(), 'rundle-tests-'));
/** Pictures that several parts begin with. */
const pictures = join(folder, 'pictures');
mkdirSync(pictures);
const postgres = needs.some(({ database }) => database) ? await startPostgres(folder, { durable: false }) : null;
let passed = 0;
let failed = 0;
let skipped = 0;
/** What did not hold, to be told once more at the end: the tests' own words may be thousands of lines above. @type {string[]} */
const notHeld = [];
const limit = whole && setTimeout(breakOff, LONGEST);
try {
  const projects = named.filter((name) => name !== 'component');
  await Promise.all([whole ? check() : null, whole || named.includes('component') ? runComponentTests() : null]);
  if (whole) {
    // The browser's tests wait for pages, the server's for time to pass, and the engine's work: side by side they take little longer than one
    // alone. They are divided, so that three are at work until the end.
    const browser = sharesOf('browser', ['browser'], 6);
    const server = sharesOf('server', ['server'], 5);
    const waiting = [...sharesOf('engine', ['core', 'render'], 1), ...browser.flatMap((share, at) => [share, ...server.slice(at, at + 1)])];
    const work = async () => {
      for (let next = waiting.shift(); next && !late; next = waiting.shift()) await next();
    };
    await Promise.all([work(), work(), work()]);
    // Told, not judged: a figure depends on what else the machine does.
    if (!late) await run([process.execPath, '--import', 'tsx', 'bench/src/main.ts', 'guard']);
  } else if (named.length === 0 || projects.length) await runVitest(projects, 'results.json');
} catch (error) {
  process.stderr.write(`${error}\n`);
  failed++;
} finally {
  if (limit) clearTimeout(limit);
  await postgres?.end();
  rmSync(folder, { recursive: true, force: true });
}
for (const what of notHeld) say(`Did not hold: ${what}`);
say(`${passed} passed, ${failed} failed${skipped ? `, ${skipped} skipped` : ''}`);
process.exit(failed ? 1 : 0);

/**
 * Counts what a run of tests has written down.
 * @param {number} code it ended with
 * @param {string} file
 */
function count(code, file) {
  if (!existsSync(file)) {
    failed++;
    notHeld.push(`${relative(folder, file)}: ended with ${code}, without results`);
    return;
  }
  const { numPassedTests, numFailedTests, numFailedTestSuites, numPendingTests, testResults } = JSON.parse(readFileSync(file, 'utf8'));
  for (const { name, status, message, assertionResults } of testResults) {
    const tests = assertionResults.filter((/** @type {{ status: string }} */ test) => test.status === 'failed');
    for (const test of tests) notHeld.push(`${relative(ROOT, name)}: ${test.fullName}\n${test.failureMessages.join('\n').slice(0, 2000)}`);
    if (status === 'failed' && tests.length === 0) notHeld.push(`${relative(ROOT, name)}: ${String(message).slice(0, 2000)}`);
  }
  passed += numPassedTests;
  skipped += numPendingTests;
  // A file that could not even be loaded has no failed tests, but is a failure all the same.
  failed += numFailedTests || (code === 0 ? 0 : Math.max(1, numFailedTestSuites));
}

/** Ends what is at work, and begins nothing else. */
function breakOff() {
  late = true;
  failed++;
  notHeld.push(`all tests within ${LONGEST / 60_000} minutes: what had not ended by then was broken off`);
  for (const child of atWork) child.kill();
  setTimeout(() => atWork.forEach((child) => child.kill('SIGKILL')), 30_000).unref();
}

/** Formatting, lint and types: each counts as a test. */
async function check() {
  say('Checking formatting, lint and types ...');
  const checks = /** @type {[string, string[]][]} */ ([
    ['formatting', ['node_modules/.bin/prettier', '--check', '--log-level', 'warn', '.']],
    ['lint', ['node_modules/.bin/eslint', '.']],
    ['types', [process.execPath, 'scripts/typecheck.mjs', '--built']],
  ]);
  const ended = await Promise.all(checks.map(([, command]) => run(command)));
  for (const [at, [what]] of checks.entries())
    if (ended[at] === 0) passed++;
    else {
      failed++;
      notHeld.push(what);
    }
}

async function runComponentTests() {
  const results = join(ROOT, 'dist/component-tests.json');
  rmSync(results, { force: true });
  count(await run([join(ROOT, 'node_modules/.bin/ng'), 'test'], join(ROOT, 'apps/web')), results);
}

/**
 * The tests of some projects in so many parts; what each says comes when it has ended.
 * @param {string} name
 * @param {string[]} projects
 * @param {number} count
 */
function sharesOf(name, projects, count) {
  return Array.from({ length: count }, (_, at) => {
    const own = `${name}-${at + 1}`;
    return () => runVitest(projects, `${own}.json`, { log: `${own}.log`, ...(count > 1 ? { shard: `${at + 1}/${count}` } : {}) });
  });
}

/**
 * Runs the tests of some projects, and counts them.
 * @param {string[]} projects all of them when empty
 * @param {string} results name of the file that vitest writes its results into
 * @param {{ log?: string; shard?: string }} [how] `log`: what is said comes at the end, not as it is said, by way of a file of that name;
 *   `shard`: which part of them, such as 1/6
 */
async function runVitest(projects, results, { log, shard } = {}) {
  const file = join(folder, results);
  const reporters = ['--reporter=default', '--reporter=json', `--outputFile.json=${file}`];
  const chosen = [...projects.flatMap((name) => ['--project', name]), ...(shard ? ['--shard', shard] : [])];
  const heard = log && join(folder, log);
  const code = await run(['node_modules/.bin/vitest', watch ? 'watch' : 'run', ...chosen, ...rest, ...reporters], ROOT, heard);
  if (heard) process.stdout.write(readFileSync(heard));
  count(code, file);
}

/** @param {string[]} command @param {string} cwd @param {string} [log] @returns {Promise<number>} */
function run([program = '', ...args], cwd = ROOT, log) {
  const env = { ...process.env, RUNDLE_TEST_PICTURES: pictures, ...(postgres ? { RUNDLE_TEST_DATABASE_URL: postgres.url } : {}) };
  const output = log ? openSync(log, 'w') : 'inherit';
  const child = spawn(program, args, { cwd, stdio: [watch ? 'inherit' : 'ignore', output, output], env });
  atWork.add(child);
  return new Promise((resolve) =>
    child.once('exit', (code) => {
      atWork.delete(child);
      resolve(code ?? 1);
    }),
  );
}
