import { createHash } from 'node:crypto';
import { mkdirSync, readdirSync, readFileSync, statSync } from 'node:fs';
import { join } from 'node:path';
import { setTimeout as wait } from 'node:timers/promises';
import { type FromMachineResult, type MasterPage, Preset, type Run, type RunDetail, type SetDetail, type StoredPreset } from '@rundle/core';
import sharp from 'sharp';
import type { Application } from '../application';
import { seeded } from './random';

/** A photographer with patience: asks again until somebody answers, as the page does. */
export class Studio {
  constructor(private readonly application: Application) {}

  /** @throws Error when the answer says that the call is wrong, or that the server has a fault */
  async call<T>(method: string, path: string, body?: object): Promise<T> {
    for (;;) {
      try {
        const response = await fetch(`${this.application.url}${path}`, {
          method,
          ...(body ? { body: JSON.stringify(body), headers: { 'content-type': 'application/json' } } : {}),
          signal: AbortSignal.timeout(90_000),
        });
        const text = await response.text();
        if (response.ok) return (text ? JSON.parse(text) : null) as T;
        if (response.status !== 503) throw new Refused(`${method} ${path}: ${response.status} ${text.slice(0, 300)}`);
      } catch (error) {
        if (error instanceof Refused) throw error;
      }
      await wait(300);
    }
  }

  async setOf(title: string, folder: string, count: number): Promise<string> {
    const { id } = await this.call<SetDetail>('POST', '/api/sets', { title });
    await this.call<FromMachineResult>('POST', `/api/sets/${id}/masters/from-machine`, { path: folder, deeper: false });
    for (;;) {
      const { masters, total } = await this.call<MasterPage>('GET', `/api/sets/${id}/masters`);
      if (total === count && masters.every(({ state }) => state === 'ready')) return id;
      await wait(500);
    }
  }

  async presets(run: number): Promise<string[]> {
    const made: string[] = [];
    for (const px of [1200, 600]) {
      const preset = Preset.parse({ kind: 'rundle.preset', version: 1, title: `${run} ${px}`, size: { px }, folder: `run-${run}-${px}` });
      made.push((await this.call<StoredPreset>('POST', '/api/presets', preset)).id);
    }
    return made;
  }

  /** Starts a run; when the answer was lost, the one that is under way is it. */
  async run(setId: string, presetIds: string[], earlier: 'go' | 'keep' = 'keep'): Promise<string> {
    try {
      return (await this.call<RunDetail>('POST', `/api/sets/${setId}/runs`, { presetIds, earlier })).id;
    } catch (error) {
      const runs = await this.call<Run[]>('GET', `/api/sets/${setId}/runs`);
      const ours = runs.find((run) => run.presetIds.every((id) => presetIds.includes(id)));
      if (!ours) throw error;
      return ours.id;
    }
  }

  detail(runId: string): Promise<RunDetail> {
    return this.call<RunDetail>('GET', `/api/runs/${runId}`);
  }
}

class Refused extends Error {}

/** Pictures of about 2 megapixels with detail in them, each another. */
export async function makePictures(folder: string, count: number): Promise<void> {
  mkdirSync(folder, { recursive: true });
  for (let index = 0; index < count; index++) {
    const random = seeded(index);
    const colour = () => Math.floor(60 + 120 * random());
    const small = Buffer.from(Array.from({ length: 48 * 32 * 3 }, colour));
    await sharp(small, { raw: { width: 48, height: 32, channels: 3 } })
      .resize(1732, 1155)
      .jpeg({ quality: 88 })
      .toFile(join(folder, `boat ${String(index + 1).padStart(4, '0')}.jpg`));
  }
}

/** What tells whether any master was written to. */
export function fingerprint(folder: string): string {
  const hash = createHash('sha256');
  for (const name of readdirSync(folder).sort()) {
    const path = join(folder, name);
    hash
      .update(name)
      .update(readFileSync(path))
      .update(String(statSync(path).mtimeMs));
  }
  return hash.digest('hex');
}
