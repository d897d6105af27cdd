import { mkdtempSync, readFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout as wait } from 'node:timers/promises';
import { type MasterPage, starterPresets, type StoredPreset } from '@rundle/core';
import { Application } from '../application';
import { pick, seeded } from './random';
import { makePictures, Studio } from './studio';

const CLIENTS = 30;
const SECONDS = 60;
const PAUSE_MS = 250;
const PICTURES = 500;

export type Kind = 'thumbnail' | 'list' | 'plan' | 'vetting';

export interface LoadReport {
  /** Times of answers in ms, sorted. */
  times: Record<Kind, number[]>;
  errors: string[];
  /** Resident memory of the server, MB: before, at the end, and a minute later. */
  memory: { before: number; end: number; later: number };
}

/** 30 clients for a minute on a set of 500 pictures, one call at a time each: half thumbnails, a quarter lists, the rest plans and vettings. */
export async function load(say: (line: string) => void): Promise<LoadReport> {
  const machine = mkdtempSync(join(tmpdir(), 'rundle-load-machine-'));
  await makePictures(machine, PICTURES);
  const application = await Application.start('', undefined, { RUNDLE_ROOTS: machine, RUNDLE_DURABLE: 'yes' });
  const report: LoadReport = {
    times: { thumbnail: [], list: [], plan: [], vetting: [] },
    errors: [],
    memory: { before: 0, end: 0, later: 0 },
  };
  try {
    const studio = new Studio(application);
    const setId = await studio.setOf('Load', machine, PICTURES);
    const presets = await studio.call<StoredPreset[]>('GET', '/api/presets');
    const presetIds = presets.slice(0, 2).map(({ id }) => id);
    if (presetIds.length < 2) throw new Error(`There should be ${starterPresets().length} presets.`);
    const { masters } = await studio.call<MasterPage>('GET', `/api/sets/${setId}/masters`);
    const [server] = application.children('dist/server.js');
    const memory = () => Number(/^VmRSS:\s+(\d+)/m.exec(readFileSync(`/proc/${server}/status`, 'utf8'))?.[1]) / 1024;

    const calls: Record<Kind, (random: () => number) => Promise<Response>> = {
      thumbnail: (random) => {
        const master = pick(masters, random);
        return fetch(`${application.url}/api/masters/${master.id}/thumbnail?content=${master.content}`);
      },
      list: () => fetch(`${application.url}/api/sets/${setId}/masters`),
      plan: () => post(`/api/sets/${setId}/plan`),
      vetting: () => post(`/api/sets/${setId}/vet`),
    };
    const post = (path: string) =>
      fetch(`${application.url}${path}`, {
        method: 'POST',
        headers: { 'content-type': 'application/json' },
        body: JSON.stringify({ presetIds }),
      });
    const kindBy = (share: number): Kind => (share < 0.5 ? 'thumbnail' : share < 0.75 ? 'list' : share < 0.9 ? 'plan' : 'vetting');
    const client = async (seed: number, until: number, keep: boolean) => {
      const random = seeded(seed);
      await wait(random() * PAUSE_MS);
      while (Date.now() < until) {
        const kind = kindBy(random());
        const begun = performance.now();
        try {
          const answer = await calls[kind](random);
          await answer.arrayBuffer();
          if (!answer.ok) report.errors.push(`${kind}: ${answer.status}`);
        } catch (error) {
          report.errors.push(`${kind}: ${String(error)}`);
        }
        if (keep) report.times[kind].push(performance.now() - begun);
        await wait(PAUSE_MS);
      }
    };
    const all = (seconds: number, keep: boolean) =>
      Promise.all(Array.from({ length: CLIENTS }, (_, seed) => client(seed, Date.now() + seconds * 1000, keep)));
    await all(10, false); // what is compiled and kept on first use is no growth
    report.memory.before = memory();
    say('load: 30 clients for a minute ...');
    await all(SECONDS, true);
    report.memory.end = memory();
    await wait(60_000);
    report.memory.later = memory();
    for (const times of Object.values(report.times)) times.sort((a, b) => a - b);
    return report;
  } finally {
    await application.stop();
  }
}

/** The 95th percentile of sorted times, ms. */
export const p95 = (times: readonly number[]): number => times[Math.min(times.length - 1, Math.floor(0.95 * times.length))] ?? NaN;
