import { describe, expect, it } from 'vitest';
import { varied, type Once } from '../plan/once';
import { parsePreset } from '../preset/parse';
import type { Preset } from '../preset/schema';
import { HouseRules, houseFindings } from './house-rules';
import { houseRemedy } from './house-remedy';

const rules = HouseRules.parse({ title: 'Lantern Post', mostPixels: 1000, mostBytes: 300_000, types: ['webp'], spaces: ['srgb'] });
const preset = (more: object): Preset => {
  const parsed = parsePreset({ kind: 'rundle.preset', version: 1, title: 'Web', ...more });
  if (!parsed.ok) throw new Error(parsed.problems[0]!.message);
  return parsed.value;
};
const heavy = preset({ size: { px: 2048 }, colour: { space: 'adobe-rgb' }, file: { type: 'jpeg' } });

describe('the remedy for a house rule', () => {
  it('is the value by which the preset keeps it, one for each that is broken', () => {
    const broken = houseFindings(rules, { width: 2048, height: 1365 }, { bytes: 900_000, expected: true }, heavy);
    expect(broken.map(({ code }) => [code, houseRemedy(code, rules, heavy)])).toEqual([
      ['house-long', { px: 1000 }],
      ['house-heavy', { ceiling: 300_000 }],
      ['house-type', { type: 'webp' }],
      ['house-space', { space: 'srgb' }],
    ]);
    const all = broken.reduce<Once>((once, { code }) => ({ ...once, ...houseRemedy(code, rules, heavy) }), {});
    const mended = varied(heavy, all);
    expect(houseFindings(rules, { width: 1000, height: 667 }, { bytes: mended.file.ceiling!.bytes, expected: true }, mended)).toEqual([]);
    for (const { code } of broken) expect(houseRemedy(code, rules, mended)).toBeNull();
  });

  it('is none where no single value does', () => {
    expect(houseRemedy('house-long', rules, preset({ size: { fit: 'box', width: 3000, height: 2000 } }))).toBeNull();
    expect(houseRemedy('house-heavy', rules, preset({ file: { type: 'tiff' } }))).toBeNull();
    expect(houseRemedy('house-type', rules, preset({ file: { type: 'original' } }))).toBeNull();
    expect(houseRemedy('no-profile', rules, heavy)).toBeNull();
  });
});
