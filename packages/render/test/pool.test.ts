import { readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { makingBy, StudioDetails } from '@rundle/core';
import { afterAll, expect, it } from 'vitest';
import { RenderPool } from '../src/pool/pool';
import type { OutputResult } from '../src/render-master';
import { aside, folder, preset, testPicture } from './pictures';

const dir = folder();
const pool = new RenderPool(new URL('../../../dist/render-thread.js', import.meta.url), 3);
afterAll(() => pool.close());

/** Programs that this one has started, by what stands in their command line. */
const started = (what: string): number =>
  readdirSync('/proc').filter((pid) => {
    try {
      const parent = /^PPid:\s+(\d+)/m.exec(readFileSync(`/proc/${pid}/status`, 'utf8'))?.[1];
      return parent === String(process.pid) && readFileSync(`/proc/${pid}/cmdline`, 'utf8').includes(what);
    } catch {
      return false; // no process, or one that has ended meanwhile
    }
  }).length;

const master = async (name: string, shade: number): Promise<string> => {
  const path = join(dir, name);
  await testPicture(300 + shade, 200)
    .jpeg()
    .toFile(path);
  return path;
};

it('reads and renders in several threads that share one ExifTool, and tells a broken file as data', async () => {
  const paths = await Promise.all(Array.from({ length: 6 }, (_, at) => master(`p ${at}.jpg`, at)));
  writeFileSync(join(dir, 'text.jpg'), 'this is no picture at all');
  const facts = await Promise.all(paths.map((path) => pool.facts(path, null)));
  expect(facts.map(({ width }) => width)).toEqual([300, 301, 302, 303, 304, 305]);
  await expect(pool.facts(join(dir, 'text.jpg'), null)).rejects.toMatchObject({ problem: { code: 'unreadable', file: 'text.jpg' } });
  const results: OutputResult[] = [];
  const begun: string[] = [];
  const studio = StudioDetails.parse({ creator: 'Orla Vessby' });
  await Promise.all(
    paths.map((path, at) => {
      const where = aside(dir, 'web', `out-${at}.jpg`);
      const outputs = [{ id: String(at), ...where, making: makingBy(facts[at]!, preset({ size: { px: 150 } })), watermark: null }];
      const job = { master: path, content: path, modified: null, facts: facts[at]!, studio, outputs };
      return pool.render(
        job,
        (id, stage) => stage === 'begun' && begun.push(id),
        (result) => results.push(result),
      );
    }),
  );
  expect(begun.toSorted()).toEqual(['0', '1', '2', '3', '4', '5']);
  expect(results.map(({ status }) => status)).toEqual(Array(6).fill('done'));
  expect(started('exiftool')).toBe(1);
});

it('does nothing for a job that is stopped before its turn, however large', async () => {
  const path = await master('large.jpg', 50);
  const facts = { ...(await pool.facts(path, null)), width: 9000, height: 9000 };
  const stopped = new AbortController();
  stopped.abort();
  const heard: unknown[] = [];
  const where = aside(dir, 'web', 'never.jpg');
  const outputs = [{ id: 'x', ...where, making: makingBy(facts, preset()), watermark: null }];
  const job = { master: path, content: path, modified: null, facts, studio: StudioDetails.parse({}), outputs };
  await pool.render(
    job,
    (id) => heard.push(id),
    (result) => heard.push(result),
    stopped.signal,
  );
  expect(heard).toEqual([]);
  expect(readdirSync(join(dir, 'web'))).not.toContain('never.jpg');
});
