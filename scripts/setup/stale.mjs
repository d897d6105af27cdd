// @ts-check
import { existsSync, readdirSync, statSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';

export const ROOT = fileURLToPath(new URL('../..', import.meta.url));

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
