// @ts-check
import { mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { isStale, ROOT } from './stale.mjs';

const SOURCES = 'packages/core/kernels';
const MADE = join(ROOT, 'packages/core/src/kernels/binary.ts');

/** Compiles the pixel loops to WebAssembly and writes them as a module of the core, unless nothing has changed. */
export async function compileKernels() {
  if (!isStale(MADE, [SOURCES, 'package-lock.json'])) return;
  const asc = await import('assemblyscript/asc');
  const options = ['--runtime', 'stub', '--optimizeLevel', '3', '--noAssert', '--enable', 'simd', '--importMemory', '--noExportMemory'];
  /** @type {Uint8Array} */
  let binary = new Uint8Array();
  const { error, stderr } = await asc.main([`${SOURCES}/index.ts`, ...options, '--outFile', 'kernels.wasm'], {
    readFile: undefined,
    writeFile: (_name, contents) => {
      if (typeof contents !== 'string') binary = contents;
    },
  });
  if (error) throw new Error(`The pixel loops cannot be compiled: ${error.message}\n${stderr.toString()}`);
  mkdirSync(join(MADE, '..'), { recursive: true });
  writeFileSync(
    MADE,
    `// Made from ${SOURCES} by scripts/setup/kernels.mjs; not to be edited.\nexport const KERNELS = Uint8Array.of(${binary.join(', ')});\n`,
  );
}
