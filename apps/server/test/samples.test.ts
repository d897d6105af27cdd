import { execFileSync } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { setTimeout as wait } from 'node:timers/promises';
import {
  addressOf,
  type HandOverView,
  type Measured,
  Preset,
  type PresetInput,
  SAMPLE_HEADER,
  SampleFacts,
  type StoredPreset,
} from '@rundle/core';
import sharp from 'sharp';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { emptyBin } from '../src/housekeeping/sweep';
import { TestServer } from './server';

let server: TestServer;
let setId: string;
let masterId: string;
beforeAll(async () => {
  server = await TestServer.start();
  setId = await server.set('Samples', 1, 1500);
  masterId = (await server.detail(setId)).masters[0]!.id;
});
afterAll(() => server.stop());

const preset = (more: Partial<PresetInput>) =>
  Preset.parse({ kind: 'rundle.preset', version: 1, title: 'Web', existing: 'replace', ...more });
const view = { kind: 'part', x: 0.5, y: 0.4, size: { width: 300, height: 200 } } as const;

async function sample(value: Preset, more: object = {}, signal: AbortSignal | null = null) {
  const body = JSON.stringify({ preset: value, upTo: 'file', view, ...more });
  const address = `${server.url}${addressOf('getSample', { masterId })}`;
  const answer = await fetch(address, { method: 'POST', body, headers: { 'content-type': 'application/json' }, signal });
  const told = answer.headers.get(SAMPLE_HEADER);
  const bytes = Buffer.from(await answer.arrayBuffer());
  return { status: answer.status, png: bytes, facts: told ? SampleFacts.parse(JSON.parse(decodeURIComponent(told))) : null };
}
const pixels = (file: string | Buffer, part?: { left: number; top: number; width: number; height: number }) => {
  const opened = sharp(file, { ignoreIcc: true });
  return (part ? opened.extract(part) : opened).removeAlpha().raw().toBuffer();
};

describe('a sample', () => {
  it.each([
    ['a JPEG', { size: { px: 1000 }, file: { quality: 71 } }],
    ['a JPEG under a ceiling', { size: { px: 1200 }, file: { quality: 95, ceiling: { bytes: 60_000, floor: 20, then: 'shrink' } } }],
    ['a JPEG made smaller to fit', { size: { px: 1400 }, file: { quality: 90, ceiling: { bytes: 30_000, floor: 80, then: 'shrink' } } }],
    ['a WebP', { size: { px: 800 }, file: { type: 'webp', quality: 60 } }],
    ['an AVIF that looks the same', { size: { px: 500 }, file: { type: 'avif', match: 0.985 } }],
  ] as [string, Partial<PresetInput>][])('of %s has in the end the weight and the pixels of what a run delivers', async (_what, more) => {
    const value = preset(more);
    const first = await sample(value);
    expect(first.facts).toMatchObject({ bytes: null, width: 300, height: 200 });
    const whole = await sample(value, { finished: true });
    expect(whole.facts?.expected).toEqual([]);
    const stored = (await server.call<StoredPreset>('POST', '/api/presets', value)).json;
    await server.call('POST', `/api/sets/${setId}/runs`, { presetIds: [stored.id] });
    const delivered = async () =>
      (await server.call<HandOverView>('GET', `/api/sets/${setId}/outputs`)).json.outputs.find(({ presetId }) => presetId === stored.id);
    await server.until(async () => (await delivered()) !== undefined);
    const output = (await delivered())!;
    expect(whole.facts).toMatchObject({
      bytes: output.bytes,
      quality: output.quality,
      output: { width: output.width, height: output.height },
    });
    const file = Buffer.from(await (await fetch(`${server.url}/api/outputs/${output.id}/file`)).arrayBuffer());
    const { shown } = whole.facts!;
    expect(Buffer.compare(await pixels(whole.png), await pixels(file, shown))).toBe(0);
    // What was found by making the whole file makes the quick look true, too, where its blocks stand alone.
    const again = await sample(value);
    if (value.file.type === 'jpeg' && output.width === first.facts!.output.width) {
      expect(again.facts?.expected).toEqual([]);
      expect(Buffer.compare(await pixels(again.png), await pixels(file, again.facts!.shown))).toBe(0);
    } else expect(again.facts?.expected).not.toEqual([]);
  });

  it('is judged and marked: the difference of its part, and where it lies', async () => {
    const value = preset({ size: { px: 1000 }, file: { quality: 30 } });
    const plain = await sample(value);
    expect(plain.facts?.judgement).toBeNull();
    const judged = await sample(value, { judged: true });
    expect(judged.facts!.judgement!.difference).toBeGreaterThan(0.005);
    expect(Buffer.compare(await pixels(judged.png), await pixels(plain.png))).toBe(0);
    const difference = await sample(value, { overlay: 'difference' });
    expect(difference.facts).toMatchObject({ width: 300, height: 200 });
    // Mid grey is where nothing has changed; eight times the largest change is far from it.
    const values = [...(await pixels(difference.png))];
    expect(values.filter((level) => level === 128).length).toBeGreaterThan(100);
    expect(values.some((level) => Math.abs(level - 128) > 40)).toBe(true);
    const rough = await sample(preset({ size: { px: 1000 }, file: { quality: 8 } }), { overlay: 'blocks' });
    const fine = await sample(preset({ size: { px: 1000 }, file: { quality: 98 } }), { overlay: 'blocks' });
    expect(rough.facts!.spots).toBeGreaterThan(0.01);
    expect(fine.facts!.spots).toBe(0);
  });

  it('of a whole file is measured once and kept, with its difference where that is wanted, for as long as its picture is there', async () => {
    const value = preset({ size: { px: 640 }, file: { quality: 55 } });
    const measure = async (judged: boolean) => {
      const { status, json } = await server.call<Measured>('POST', `/api/masters/${masterId}/measured`, { preset: value, judged });
      expect(status).toBe(200);
      return json;
    };
    const rows = async () => (await server.database.sequelize.query('SELECT recipe FROM measured_outputs'))[0].length;
    const before = await rows();
    const light = await measure(false);
    const whole = await sample(value, { finished: true });
    expect(light).toMatchObject({ bytes: whole.facts!.bytes, quality: 55, judgement: null });
    const judged = await measure(true);
    expect(judged.judgement!.difference).toBeGreaterThan(0);
    expect(await measure(true)).toEqual(judged);
    // Whoever wants the weight alone gets what is known.
    expect((await measure(false)).bytes).toBe(light.bytes);
    expect(await rows()).toBe(before + 2);
    expect((await server.call('POST', `/api/masters/${masterId}/measured`, { preset: { ...value, size: { px: -3 } } })).status).toBe(400);
    await server.database.sequelize.query(`INSERT INTO measured_outputs (recipe, content, measured) VALUES ('x', 'gone', '{}')`);
    await emptyBin(server);
    expect(await rows()).toBe(before + 2);
  });

  it('shows each rung, the whole picture small, and says why there is none', async () => {
    const value = preset({ size: { px: 1000 }, border: { px: 20, colour: '#ff0000' } });
    const rungs = await Promise.all(
      (['size', 'colour', 'sharpen', 'mark'] as const).map((upTo) => sample(value, { upTo, view: { ...view, x: 0, y: 0 } })),
    );
    expect(rungs.map(({ facts }) => facts?.output.width)).toEqual([1000, 1000, 1000, 1040]);
    expect([...(await pixels(rungs[3]!.png)).subarray(0, 3)]).toEqual([255, 0, 0]);
    const soft = await pixels(rungs[1]!.png);
    expect(Buffer.compare(soft, await pixels(rungs[2]!.png))).not.toBe(0);
    const small = await sample(value, { view: { kind: 'whole', within: { width: 200, height: 200 } } });
    expect(small.facts).toMatchObject({ width: 200, output: { width: 1040 } });
    const mark = { watermark: '00000000-0000-4000-8000-000000000000', place: 'centre', margin: 0, size: 0.2, opacity: 1 } as const;
    const missing = await sample(preset({ mark }));
    expect(missing.status).toBe(422);
    expect(JSON.parse(missing.png.toString())).toMatchObject({
      code: 'no-sample',
      problems: [{ code: 'watermark-missing', field: 'mark.watermark' }],
    });
  });

  it('is made again after its process was killed, and nobody waits for what was dropped', async () => {
    const value = preset({ size: { px: 1100 } });
    await sample(value);
    const children = () =>
      execFileSync('ps', ['-o', 'pid=,args=', '--ppid', String(process.pid)], { encoding: 'utf8' })
        .split('\n')
        .filter((line) => line.includes('sample-process'))
        .map((line) => Number(line.trim().split(' ')[0]));
    /** Processor time of the processes that make samples, in clock ticks; see proc_pid_stat(5), fields 14 and 15. */
    const spent = () =>
      children()
        .map((pid) => readFileSync(`/proc/${pid}/stat`, 'utf8').split(') ')[1]!.split(' '))
        .reduce((sum, fields) => sum + Number(fields[11]) + Number(fields[12]), 0);
    for (const pid of children()) process.kill(pid, 'SIGKILL');
    await server.until(() => Promise.resolve(children().length === 0));
    expect((await sample(value)).status).toBe(200);
    // Whoever asks while the old process is still ending is answered by the new one.
    for (let time = 0; time < 4; time++) {
      for (const pid of children()) process.kill(pid, 'SIGKILL');
      const both = await Promise.all([sample(value), sample(preset({ size: { px: 1102 } }))]);
      expect(both.map(({ status }) => status)).toEqual([200, 200]);
    }

    // Of many that wait, only one that brings it down each time is given up, by its name; here none does.
    const many = Array.from({ length: 60 }, (_, at) => sample(preset({ size: { px: 700 + at } }), { finished: true }));
    for (let time = 0; time < 3; time++) {
      await wait(700);
      for (const pid of children()) process.kill(pid, 'SIGKILL');
    }
    const answers = await Promise.all(many);
    expect(answers.map(({ status }) => status)).toEqual(answers.map(() => 200));
    // While it stands still nothing is given up.
    for (const pid of children()) process.kill(pid, 'SIGSTOP');
    const waiting = sample(preset({ size: { px: 801 } }), { finished: true });
    await wait(2000);
    for (const pid of children()) process.kill(pid, 'SIGCONT');
    expect((await waiting).status).toBe(200);
    // What is at work at two deaths is.
    const heavy = sample(preset({ size: { px: 6000, enlarge: true }, file: { type: 'avif' } }), { finished: true });
    const isOver = (within: number) => Promise.race([heavy.then(() => true), wait(within).then(() => false)]);
    // Each time after it has begun, however long it takes to start.
    for (let time = 0; time < 20 && !(await isOver(2500)); time++) for (const pid of children()) process.kill(pid, 'SIGKILL');
    const givenUp = await heavy;
    expect([givenUp.status, (JSON.parse(givenUp.png.toString()) as { detail: string }).detail]).toEqual([
      422,
      expect.stringMatching(/^\S.*\.jpg brought the program down/) as string,
    ]);

    await sample(value, { finished: true });
    const before = spent();
    const dropped = Array.from({ length: 20 }, (_, at) => {
      const leave = new AbortController();
      const asked = sample(preset({ size: { px: 900 + at }, file: { type: 'avif' } }), { finished: true }, leave.signal).catch(() => null);
      setTimeout(() => leave.abort(), 20);
      return asked;
    });
    expect((await sample(preset({ size: { px: 920 }, file: { type: 'avif' } }), { finished: true })).status).toBe(200);
    await Promise.all(dropped);
    const among = spent();
    await sample(preset({ size: { px: 921 }, file: { type: 'avif' } }), { finished: true });
    // By the time of the processor, which is the same on a busy machine: twenty files would take twenty times as long.
    expect(among - before).toBeLessThan(8 * (spent() - among));
  });
});
