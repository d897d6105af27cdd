import { createHash } from 'node:crypto';
import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';

const ENGINE_SOURCES = ['packages/core/src', 'packages/core/kernels', 'packages/render/src', 'packages/little-cms'];
const SERVER_SOURCES = ['apps/server/src', 'apps/worker/src', 'packages/store/src', ...ENGINE_SOURCES];

/** What each part of the bench measures: the folders whose sources decide about its figures. */
export const MEASURES: Readonly<Record<string, readonly string[]>> = {
  pace: ENGINE_SOURCES,
  profile: ENGINE_SOURCES,
  vips: ENGINE_SOURCES,
  magick: ENGINE_SOURCES,
  engine: ENGINE_SOURCES,
  growth: ENGINE_SOURCES,
  crops: ENGINE_SOURCES,
  tone: ENGINE_SOURCES,
  parts: ENGINE_SOURCES,
  weights: ENGINE_SOURCES,
  faults: ENGINE_SOURCES,
  judges: ENGINE_SOURCES,
  start: ['packages/render/src', 'packages/core/src', 'scripts/setup'],
  arrival: SERVER_SOURCES,
  gather: [...SERVER_SOURCES, 'apps/web/src/app/gather', 'apps/web/src/app/set'],
  page: [...SERVER_SOURCES, 'apps/web/src'],
  overhead: SERVER_SOURCES,
  encoders: ENGINE_SOURCES,
  sample: SERVER_SOURCES,
  strip: SERVER_SOURCES,
  plan: [...SERVER_SOURCES, 'apps/web/src/app/plan'],
  deliver: ['apps/courier/src', 'packages/transport/src', 'packages/store/src'],
  gallery: ['packages/core/src/deliver'],
};

/** Parts that say how fast the engine is: a figure of another engine says nothing of this one. */
export const PACE: readonly string[] = ['pace', 'engine', 'profile'];

const isSource = (name: string): boolean => /\.(?:ts|mjs|html|less|c|wat)$/.test(name) && !/\.(?:component-)?test\.ts$/.test(name);

/** SHA-256 of the sources below some folders, by their paths and contents; tests count for nothing. @param root of the project */
export function sourcesHash(root: string, folders: readonly string[]): string {
  const hash = createHash('sha256');
  for (const folder of folders) {
    const entries = readdirSync(join(root, folder), { withFileTypes: true, recursive: true });
    const paths = entries.filter((entry) => entry.isFile() && isSource(entry.name)).map((entry) => join(entry.parentPath, entry.name));
    for (const path of paths.filter((one) => !one.includes('node_modules')).sort()) {
      hash.update(path.slice(root.length)).update('\0');
      hash.update(readFileSync(path)).update('\0');
    }
  }
  return hash.digest('hex').slice(0, 16);
}

/** What was measured of a part, as far as its age goes. */
export interface MeasuredLine {
  day: string;
  /** Number of the engine; missing: measured before it was kept. */
  engine?: number;
  sources?: string;
}

/** Why a line is older than what it measures; null: it is not. */
export function olderBecause(part: string, { engine, sources }: MeasuredLine, now: { root: string; engine: number }): string | null {
  if (engine === undefined || sources === undefined) return 'measured before its engine was kept';
  if (engine !== now.engine) return `of engine ${engine}, and this is ${now.engine}`;
  return sources === sourcesHash(now.root, MEASURES[part] ?? []) ? null : 'its sources have changed';
}
