import { spawn } from 'node:child_process';
import { existsSync, mkdtempSync, rmSync } from 'node:fs';
import { cp, mkdtemp, rename } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import type { TestProject } from 'vitest/node';
import { makeMixedFolder } from './mixed-folder';

/*
 * Pictures that several tests begin with. Making them takes longer than many a test, so that each kind is made once, by the first that
 * needs it, and every test gets files of its own. Two that need them at a time both make them, and the first to have them counts.
 */

declare module 'vitest' {
  interface ProvidedContext {
    /** Folder in which they are kept for the next test. */
    pictures: string;
  }
}

/** Of what the demo masters have. */
const SCALE = 0.25;
const DEMO = fileURLToPath(new URL('../../dist/demo.js', import.meta.url));

/** Called by vitest before the first test. @returns what it calls after the last one */
export default function (project: TestProject): () => void {
  // One of all parts into which the tests are divided, where they are; see scripts/test.mjs.
  const given = process.env['RUNDLE_TEST_PICTURES'];
  const folder = given ?? mkdtempSync(join(tmpdir(), 'rundle-pictures-'));
  project.provide('pictures', folder);
  return () => given ?? rmSync(folder, { recursive: true });
}

/** Puts an ordinary delivery into a folder. See {@link makeMixedFolder}. */
export async function copyMixedFolder(kept: string, to: string): Promise<void> {
  await copyOf(join(kept, 'mixed'), makeMixedFolder, to);
}

/** Puts the demo masters into a folder, at a quarter of their size. */
export async function copyDemoMasters(kept: string, to: string): Promise<void> {
  await copyOf(join(kept, 'demo'), makeDemoMasters, to);
}

async function copyOf(kept: string, make: (folder: string) => Promise<void>, to: string): Promise<void> {
  if (!existsSync(kept)) {
    const made = await mkdtemp(`${kept}-`);
    await make(made);
    await rename(made, kept).catch((error: unknown) => {
      if (!existsSync(kept)) throw error;
    });
  }
  await cp(kept, to, { recursive: true, preserveTimestamps: true });
}

async function makeDemoMasters(folder: string): Promise<void> {
  const child = spawn(process.execPath, [DEMO, folder, String(SCALE)], { stdio: ['ignore', 'ignore', 'pipe'] });
  let said = '';
  child.stderr.on('data', (text: Buffer) => (said += text.toString()));
  const code = await new Promise((resolve) => child.once('exit', resolve));
  if (code !== 0) throw new Error(`The demo masters could not be made: ${said}`);
}
