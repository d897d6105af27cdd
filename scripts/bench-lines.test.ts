import { mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { ENGINE } from '@rundle/core';
import { expect, it } from 'vitest';
import type { Kept } from '../bench/src/report';
import { MEASURES, olderBecause, PACE, sourcesHash } from '../bench/src/sources';

const kept = JSON.parse(readFileSync(new URL('../docs/bench.json', import.meta.url), 'utf8')) as Kept;

it('the lines of the bench that tell the pace are of this engine: measure them again with npm run bench', () => {
  for (const part of PACE) expect([part, kept[part]?.engine]).toEqual([part, ENGINE]);
});

it('a line is older once a source that it measures has changed, not a test', () => {
  const root = mkdtempSync(join(tmpdir(), 'rundle-lines-'));
  for (const folder of MEASURES['gallery']!) mkdirSync(join(root, folder), { recursive: true });
  const at = (name: string) => join(root, MEASURES['gallery']![0]!, name);
  writeFileSync(at('page.ts'), 'one');
  const line = { day: '', engine: 3, sources: sourcesHash(root, MEASURES['gallery']!) };
  const why = (engine = 3) => olderBecause('gallery', line, { root, engine });
  expect(why()).toBeNull();
  writeFileSync(at('page.test.ts'), 'a test');
  expect(why()).toBeNull();
  writeFileSync(at('page.ts'), 'two');
  expect(why()).toBe('its sources have changed');
  expect(why(4)).toBe('of engine 3, and this is 4');
  rmSync(root, { recursive: true });
});
