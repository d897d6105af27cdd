import { readFile, rename, writeFile } from 'node:fs/promises';
import { basename, join, relative, resolve, sep } from 'node:path';
import { type Manifest, MANIFEST_NAME, type ManifestFile, naturally } from '@rundle/core';
import { seeFile } from '../deliver/see-file';
import { type OutputEvent, Report } from './report';

/** Writes down what of a call stands in its target folder, so that it can be proved later; whole or not at all. */
export async function keepManifest(out: string, set: string, outputs: readonly OutputEvent[]): Promise<void> {
  const target = resolve(out);
  const files: ManifestFile[] = [];
  for (const { output, master, preset, part, status } of outputs) {
    if (output === undefined || (status !== 'done' && status !== 'skipped')) continue;
    const path = relative(target, output).split(sep).join('/');
    const file = await readFile(output).catch(() => null);
    const seen = file && (await seeFile(path, file));
    if (seen) files.push({ ...seen, master: basename(master), preset, version: null, ...(part ? { part } : {}) });
  }
  files.sort((a, b) => naturally(a.path, b.path));
  const manifest: Manifest = { kind: 'rundle.manifest', version: 1, set, madeAt: new Date().toISOString(), files, pages: [] };
  const path = join(target, MANIFEST_NAME);
  try {
    await writeFile(`${path}.new`, `${JSON.stringify(manifest, null, 2)}\n`);
    await rename(`${path}.new`, path);
  } catch (error) {
    const why = error instanceof Error ? error.message : String(error);
    Report.problem({ code: 'not-written', file: path, message: `The manifest could not be written: ${why}` });
  }
}
