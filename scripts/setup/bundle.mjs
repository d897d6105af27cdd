// @ts-check
import { existsSync, readdirSync, statSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';

export const ROOT = fileURLToPath(new URL('../..', import.meta.url));

/** What is bundled for Node, and from where. */
const ENTRIES = {
  rundle: 'packages/render/src/cli/main.ts',
  'render-thread': 'packages/render/src/pool/thread.ts',
  server: 'apps/server/src/main.ts',
  worker: 'apps/worker/src/main.ts',
  demo: 'demo/src/main.ts',
};

const SOURCES = [
  'packages/core/src',
  'packages/render/src',
  'packages/store/src',
  'apps/server/src',
  'apps/worker/src',
  'demo/src',
  'package-lock.json',
];

/** Bundles the programs for Node into `dist/`, unless nothing has changed since the last time. */
export async function bundlePrograms() {
  const { build } = await import('esbuild');
  const entryPoints = Object.fromEntries(Object.entries(ENTRIES).filter(([, file]) => existsSync(join(ROOT, file))));
  if (!isStale(join(ROOT, 'dist/rundle.js'), SOURCES)) return;
  await build({
    absWorkingDir: ROOT,
    entryPoints,
    outdir: 'dist',
    bundle: true,
    platform: 'node',
    target: 'node20',
    format: 'esm',
    sourcemap: true,
    packages: 'external',
    alias: {
      '@rundle/core': join(ROOT, 'packages/core/src/index.ts'),
      '@rundle/render': join(ROOT, 'packages/render/src/index.ts'),
      '@rundle/demo': join(ROOT, 'demo/src/index.ts'),
      '@rundle/store': join(ROOT, 'packages/store/src/index.ts'),
    },
    logLevel: 'warning',
  });
}

/**
 * Whether any source is newer than what was made of it.
 * @param {string} made a file
 * @param {readonly string[]} sources files or folders below the project
 */
export function isStale(made, sources) {
  if (!existsSync(made)) return true;
  const { mtimeMs } = statSync(made);
  return sources.some((source) => newest(join(ROOT, source)) > mtimeMs);
}

/** @param {string} path @returns {number} */
function newest(path) {
  const stat = statSync(path, { throwIfNoEntry: false });
  if (!stat) return 0;
  if (!stat.isDirectory()) return stat.mtimeMs;
  return Math.max(stat.mtimeMs, ...readdirSync(path).map((name) => newest(join(path, name))));
}
