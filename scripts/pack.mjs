// @ts-check
// `npm run pack`: the engine with its command line as one package, `rundle-VERSION.tgz` in the project, which works alone.
import { execFileSync } from 'node:child_process';
import { chmodSync, cpSync, mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join, resolve } from 'node:path';
import { bundlePrograms, WITH_FILES } from './setup/bundle.mjs';
import { installPackages } from './setup/packages.mjs';
import { ROOT } from './setup/stale.mjs';

/** @param {string} path */
const json = (path) => JSON.parse(readFileSync(join(ROOT, path), 'utf8'));

await installPackages();
await bundlePrograms();
const target = resolve(process.argv[2] ?? ROOT);
const folder = join(ROOT, 'dist/package');
rmSync(folder, { recursive: true, force: true });
mkdirSync(folder, { recursive: true });

// Our own copy of Little CMS is on no registry: it goes along.
const lcms = '@rundle/little-cms';
cpSync(join(ROOT, 'packages/little-cms'), join(folder, 'node_modules', lcms), { recursive: true });
const { version, description, license, engines } = json('package.json');
const { dependencies } = json('packages/render/package.json');
const locked = json('package-lock.json').packages;
const own = Object.keys(dependencies).filter(
  (name) => name !== lcms && WITH_FILES.some((one) => one === name || (one.endsWith('/*') && name.startsWith(one.slice(0, -1)))),
);
writeFileSync(
  join(folder, 'package.json'),
  JSON.stringify(
    {
      name: 'rundle',
      version,
      description,
      license,
      type: 'module',
      engines,
      bin: { rundle: 'rundle.js' },
      // The versions that it has been tested with.
      dependencies: {
        ...Object.fromEntries(own.map((name) => [name, locked[`node_modules/${name}`].version])),
        [lcms]: json('packages/little-cms/package.json').version,
      },
      bundleDependencies: [lcms],
    },
    null,
    2,
  ),
);
for (const part of ['rundle.js', 'render-thread.js', 'parts'])
  cpSync(join(ROOT, 'dist', part), join(folder, part), { recursive: true, filter: (from) => !from.endsWith('.map') });
const program = readFileSync(join(folder, 'rundle.js'), 'utf8');
writeFileSync(join(folder, 'rundle.js'), `#!/usr/bin/env node\n${program}`);
chmodSync(join(folder, 'rundle.js'), 0o755);
cpSync(join(ROOT, 'LICENSE'), join(folder, 'LICENSE'));
writeFileSync(
  join(folder, 'README.md'),
  `# Rundle, the command line\n\n${description}\n\n    npm i ./rundle-${version}.tgz\n    npx --no-install rundle render --preset web.preset.json --out out PICTURES\n\nMasters are only read. \`rundle\` alone says what it can do.\n`,
);
const [packed] = JSON.parse(execFileSync('npm', ['pack', '--json', '--pack-destination', target], { cwd: folder, encoding: 'utf8' }));
process.stdout.write(`${join(target, packed.filename)}\n`);
