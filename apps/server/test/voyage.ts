import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { type HandOverView, type PlanView, Preset, type ProblemDetails, type RunDetail, type StoredPreset } from '@rundle/core';
import { picture, type TestServer } from './server';

/*
 * A voyage: sets of numbered pictures that are run, changed and run again, and held against what a fresh set gives.
 */

let server: TestServer;
let pictures: File[] = [];

/** From now on it is this server that is asked. It knows the pictures p0.jpg, p1.jpg and so on. */
export async function voyageOn(of: TestServer): Promise<void> {
  server = of;
  pictures = await Promise.all(Array.from({ length: 7 }, (_, n) => picture(`p${n}.jpg`, 160 + n, n)));
}

export const voyage = {
  name: {
    parts: [
      { part: 'text', text: 'voyage-' },
      { part: 'counter', digits: 3, start: 1, step: 1 },
    ],
  },
};
export async function make(title: string, more: object = {}): Promise<StoredPreset> {
  const body = Preset.parse({ kind: 'rundle.preset', version: 1, title, size: { px: 100 }, folder: 'web', ...voyage, ...more });
  return (await server.call<StoredPreset>('POST', '/api/presets', body)).json;
}
/** The preset keeps what was changed before. */
export const change = (preset: StoredPreset, more: object) =>
  server.call('PUT', `/api/presets/${preset.id}`, Object.assign(preset.preset, more));

export async function setOf(title: string, numbers: readonly number[]): Promise<string> {
  const { json } = await server.call<{ id: string }>('POST', '/api/sets', { title });
  await bringIn(json.id, numbers);
  return json.id;
}
export async function bringIn(setId: string, numbers: readonly number[]): Promise<void> {
  await server.upload(
    setId,
    numbers.map((n) => pictures[n]!),
  );
  await server.until(async () => (await server.detail(setId)).masters.every(({ state }) => state === 'ready'));
}
export const remove = async (setId: string, fileName: string) => {
  const { masters } = await server.detail(setId);
  await server.call('POST', `/api/sets/${setId}/masters/remove`, { masterIds: [masters.find((one) => one.fileName === fileName)!.id] });
};
export const plan = async (setId: string, presets: readonly StoredPreset[], earlier = 'go') =>
  (await server.call<PlanView>('POST', `/api/sets/${setId}/plan`, { presetIds: presets.map(({ id }) => id), earlier })).json;
export const start = (setId: string, presets: readonly StoredPreset[], more: object = { earlier: 'go' }) =>
  server.call<RunDetail & ProblemDetails>('POST', `/api/sets/${setId}/runs`, { presetIds: presets.map(({ id }) => id), ...more });
export const now = async (runId: string) => (await server.call<RunDetail>('GET', `/api/runs/${runId}`)).json;
export const ended = (runId: string) => server.until(async () => ['done', 'cancelled'].includes((await now(runId)).state));
export async function run(setId: string, presets: readonly StoredPreset[], more?: object): Promise<RunDetail> {
  const { json } = await start(setId, presets, more);
  await ended(json.id);
  return now(json.id);
}
export const out = async (setId: string) => (await server.call<HandOverView>('GET', `/api/sets/${setId}/outputs`)).json;
export const pathOf = async (setId: string) => (await out(setId)).path!;

/** Files below a folder, by their paths: what is in them. */
export function listed(folder: string, below = ''): Record<string, string> {
  if (!existsSync(join(folder, below))) return {};
  const found = readdirSync(join(folder, below), { withFileTypes: true }).flatMap((entry) => {
    const path = join(below, entry.name);
    if (entry.isDirectory()) return Object.entries(listed(folder, path));
    return [
      [
        path,
        createHash('sha256')
          .update(readFileSync(join(folder, path)))
          .digest('hex')
          .slice(0, 12),
      ] as const,
    ];
  });
  return Object.fromEntries(found.toSorted(([a], [b]) => (a < b ? -1 : 1)));
}

/** What a run of the same pictures by the same presets makes in a set that is new, beside files of others. */
export async function fresh(numbers: readonly number[], presets: readonly StoredPreset[], strangers: Record<string, string> = {}) {
  const setId = await setOf('Fresh', numbers);
  const target = join(server.config.writeRoots[0]!, `fresh-${setId}`);
  for (const [path, text] of Object.entries(strangers)) {
    mkdirSync(dirname(join(target, path)), { recursive: true });
    writeFileSync(join(target, path), text);
  }
  await server.call('PATCH', `/api/sets/${setId}`, { title: 'Voyage', place: { kind: 'folder', path: target } });
  await run(setId, presets);
  return listed(target);
}

/** Numbers that are the same for the same seed (mulberry32, in the public domain). */
export function seeded(seed: number): () => number {
  let state = seed;
  return () => {
    state = (state + 0x6d2b79f5) | 0;
    let mixed = Math.imul(state ^ (state >>> 15), 1 | state);
    mixed = (mixed + Math.imul(mixed ^ (mixed >>> 7), 61 | mixed)) ^ mixed;
    return ((mixed ^ (mixed >>> 14)) >>> 0) / 2 ** 32;
  };
}
