import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import type { RunDetail, SetDetail, StoredPreset } from '@rundle/core';
import { Application } from '../../e2e/src/application';
import { allRead, call as callOf } from '../../e2e/src/new-set';
import { atRest, cpuSeconds, median, presetFile, rundle, work } from './measure';
import { smallMasters } from './pictures';
import type { Row } from './report';

/*
 * What a run costs beside rendering: processor time of server, workers and PostgreSQL per output, less that of the command line for the same files.
 */

const COUNT = 400;
const ROUNDS = 3;
const TICKS = 100;

export async function runOverhead(): Promise<Row[]> {
  const folder = join(work, 'overhead-masters');
  const files = await smallMasters(folder, COUNT);
  process.env['RUNDLE_ROOTS'] = work;
  const application = await Application.start('');
  const call = <T>(method: string, path: string, body?: object) => callOf<T>(application, method, path, body);
  try {
    const { id } = await call<SetDetail>('POST', '/api/sets', { title: 'Overhead' });
    await call('POST', `/api/sets/${id}/masters/from-machine`, { path: folder, deeper: false });
    await allRead(application, id);
    const turns: { inAll: number; alone: number }[] = [];
    for (let round = 0; round <= ROUNDS; round++) {
      const preset = { size: { px: 400 + round }, existing: 'replace' as const, folder: `round-${round}` };
      const stored = await call<StoredPreset>('POST', '/api/presets', {
        kind: 'rundle.preset',
        version: 1,
        title: `Round ${round}`,
        ...preset,
      });
      await call('POST', `/api/sets/${id}/plan`, { presetIds: [stored.id] });
      await atRest(call);
      const before = treeSeconds(application.pid);
      const run = await call<RunDetail>('POST', `/api/sets/${id}/runs`, { presetIds: [stored.id] });
      while ((await call<{ state: string }[]>('GET', `/api/sets/${id}/runs`))[0]?.state !== 'done') await pause(1000);
      const inAll = (treeSeconds(application.pid) - before) / COUNT;
      const { counts } = await call<RunDetail>('GET', `/api/runs/${run.id}`);
      if (counts.done !== COUNT) throw new Error(`Only ${counts.done} of ${COUNT} were made.`);
      const own = presetFile(`round-${round}`, preset);
      // What is known of the files is on record from the first of two calls; a start is in both.
      rundle([presetFile('before', { size: { px: 300 } })], files);
      const many = cpuSeconds(() => rundle([own], files, true));
      const few = cpuSeconds(() => rundle([presetFile(`few-${round}`, { ...preset, folder: 'few' })], files.slice(0, COUNT / 4), true));
      if (round > 0) turns.push({ inAll, alone: (many - few) / (0.75 * COUNT) });
    }
    const figures = turns.map(({ inAll, alone }) => 1000 * (inAll - alone));
    const ms = (of: number[]) => `${(1000 * median(of)).toFixed(0)} ms`;
    return [
      {
        what: `Processor time per output of a run of ${COUNT} small pictures, over server, workers and PostgreSQL, beside rendering (ms)`,
        ours: `in all ${ms(turns.map(({ inAll }) => inAll))}`,
        against: `the same by the command line, its start taken out: ${ms(turns.map(({ alone }) => alone))}`,
        goal: '<= 15',
        figures,
        figure: median(figures),
        met: median(figures) <= 15,
      },
    ];
  } finally {
    await application.stop();
  }
}

const pause = (ms: number) => new Promise((resolve) => setTimeout(resolve, ms));

/** Processor time of a program and all below it, those that have ended taken in, s: fields 14 to 17 of proc(5), /proc/pid/stat. */
function treeSeconds(root: number): number {
  const processes = readdirSync('/proc')
    .filter((name) => /^\d+$/.test(name))
    .flatMap((pid) => {
      try {
        const fields = readFileSync(`/proc/${pid}/stat`, 'utf8')
          .replace(/^.*\) /, '')
          .split(' ');
        return [
          { pid: Number(pid), parent: Number(fields[1]), ticks: fields.slice(11, 15).reduce((sum, ticks) => sum + Number(ticks), 0) },
        ];
      } catch {
        return []; // ended meanwhile
      }
    });
  const below = (pid: number): number =>
    processes.filter(({ parent }) => parent === pid).reduce((sum, one) => sum + one.ticks + below(one.pid), 0);
  return ((processes.find(({ pid }) => pid === root)?.ticks ?? 0) + below(root)) / TICKS;
}
