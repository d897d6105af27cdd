// @ts-check
import { existsSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { compileKernels } from './kernels.mjs';
import { isStale, ROOT } from './stale.mjs';

/** The engine's programs, which are called again and again, so that they are minified. */
const ENGINE = {
  rundle: 'packages/render/src/cli/main.ts',
  'render-thread': 'packages/render/src/pool/thread.ts',
  'sample-process': 'packages/render/src/sample/process.ts',
  'mark-check': 'packages/render/src/mark/check-process.ts',
  'sheet-process': 'packages/render/src/sheet/process.ts',
};
/** Packages with files of their own. All others are bundled in: a program that reads thousands of small files starts half as fast. */
export const WITH_FILES = ['sharp', '@rundle/little-cms', 'piscina', 'exiftool-vendored', 'koffi', 'yauzl', 'pdfkit', '@fontsource/*'];

/** And such as other packages look for by name, with what has to be the same for both. */
const LOOKED_FOR = ['pg', 'pg-hstore', 'graphile-worker', 'ssh2', 'ssh2-sftp-client', 'webdav-server'];

/** Packages of old-style modules, which are loaded the old way, with what is named of each: `sharp` takes a tenth of a second longer else. */
const REQUIRED = {
  sharp: [],
  piscina: ['Piscina', 'workerData'],
  'exiftool-vendored': ['DefaultExiftoolArgs', 'ExifTool', 'exiftoolPath'],
};

/** @type {import('esbuild').Plugin} */
const required = {
  name: 'required',
  setup(build) {
    build.onResolve({ filter: new RegExp(`^(${Object.keys(REQUIRED).join('|')})$`) }, ({ path }) => ({ path, namespace: 'required' }));
    build.onLoad({ filter: /./, namespace: 'required' }, ({ path }) => {
      const names = REQUIRED[/** @type {keyof typeof REQUIRED} */ (path)];
      const contents = [
        `import { createRequire } from 'node:module';`,
        `const loaded = createRequire(import.meta.url)('${path}');`,
        'export default loaded;',
        ...names.map((name) => `export const ${name} = loaded.${name};`),
      ];
      return { contents: contents.join('\n') };
    });
  },
};

/** The other programs for Node. */
const ENTRIES = {
  server: 'apps/server/src/main.ts',
  'set-thread': 'apps/server/src/threads/set-thread.ts',
  courier: 'apps/courier/src/main.ts',
  keeper: 'apps/keeper/src/main.ts',
  'receiver-trial': 'packages/transport/src/trial-process.ts',
  worker: 'apps/worker/src/main.ts',
  'stand-ins': 'stand-ins/src/main.ts',
  demo: 'demo/src/main.ts',
};

/** What the programs are made of. */
export const SOURCES = [
  'scripts/setup/bundle.mjs',
  'packages/core/src',
  'packages/render/src',
  'packages/store/src',
  'packages/place/src',
  'packages/transport/src',
  'packages/watch/src',
  'apps/server/src',
  'apps/worker/src',
  'apps/courier/src',
  'apps/keeper/src',
  'stand-ins/src',
  'demo/src',
  'package-lock.json',
];

/** Bundles the programs for Node into `dist/`, unless nothing has changed since the last time. */
export async function bundlePrograms() {
  await compileKernels();
  const { build } = await import('esbuild');
  const entryPoints = Object.fromEntries(Object.entries(ENTRIES).filter(([, file]) => existsSync(join(ROOT, file))));
  if (!isStale(join(ROOT, 'dist/rundle.js'), SOURCES)) return;
  /** @type {import('esbuild').BuildOptions} */
  const common = {
    absWorkingDir: ROOT,
    outdir: 'dist',
    bundle: true,
    platform: 'node',
    target: 'node20',
    format: 'esm',
    sourcemap: true,
    alias: {
      '@rundle/core': join(ROOT, 'packages/core/src/index.ts'),
      '@rundle/render': join(ROOT, 'packages/render/src/index.ts'),
      '@rundle/demo': join(ROOT, 'demo/src/index.ts'),
      '@rundle/store': join(ROOT, 'packages/store/src/index.ts'),
      '@rundle/place': join(ROOT, 'packages/place/src/index.ts'),
      '@rundle/transport': join(ROOT, 'packages/transport/src/index.ts'),
      '@rundle/watch': join(ROOT, 'packages/watch/src/index.ts'),
    },
    logLevel: 'warning',
  };
  // What few runs need, such as the letters of watermarks, lies apart and is read only then.
  rmSync(join(ROOT, 'dist/parts'), { recursive: true, force: true });
  const { metafile } = await build({
    ...common,
    entryPoints: ENGINE,
    external: WITH_FILES,
    splitting: true,
    chunkNames: 'parts/[name]-[hash]',
    minify: true,
    metafile: true,
    plugins: [required],
  });
  withoutRequire(metafile);
  await build({
    ...common,
    entryPoints,
    external: [...WITH_FILES, ...LOOKED_FOR],
    plugins: [required],
    // Old-style modules that are bundled in ask for those of Node.
    banner: { js: "import { createRequire as requireOf } from 'node:module'; const require = requireOf(import.meta.url);" },
  });
}

/**
 * The engine's programs have no require(): a module of theirs that asked for one would end each of them as it is loaded, and all that waits for it.
 * @param {import('esbuild').Metafile} metafile
 */
function withoutRequire({ outputs }) {
  for (const { imports, inputs } of Object.values(outputs)) {
    const asked = imports.find(({ kind, external }) => kind === 'require-call' && external);
    if (!asked) continue;
    // It counts as built else, and would be used the next time.
    rmSync(join(ROOT, 'dist/rundle.js'), { force: true });
    const packages = Object.keys(inputs).filter((file) => file.startsWith('node_modules/'));
    throw new Error(`The engine's programs cannot ask for "${asked.path}" by require(), as one of these does: ${packages.join(', ')}`);
  }
}
