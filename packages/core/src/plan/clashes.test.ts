import { describe, expect, it } from 'vitest';
import { soundFacts } from '../facts/sound-facts';
import { Preset } from '../preset/schema';
import { nameClashes, withoutClash } from './clashes';
import { planRun, type PlanMaster, type PlannedOutput } from './plan';

describe('names that two outputs would have', () => {
  const preset = (title: string, parts: object[]) => Preset.parse({ kind: 'rundle.preset', version: 1, title, name: { parts } });
  const original = [{ part: 'original' }];
  const masters = (...names: string[]): PlanMaster[] =>
    names.map((fileName, at) => ({ id: String(at), fileName, read: { ok: true, facts: soundFacts }, rating: 0, tags: [] }));
  const plan = (of: PlanMaster[], presets: Preset[]): PlannedOutput[] =>
    planRun({
      setTitle: 'Set',
      masters: of,
      presets: presets.map((one, at) => ({ id: String(at), preset: one, problem: null })),
      standing: () => ({ is: 'free' }),
    });

  it('of pictures are told apart by a counter, of presets by their own name; then nothing clashes any more', () => {
    const twins = masters('a.jpg', 'a.tif', 'b.jpg');
    const web = preset('Web', original);
    expect(nameClashes(plan(twins, [web]))).toEqual([{ presetId: '0', outputs: 1, fileName: 'a-2.jpg', by: 'counter' }]);
    expect(nameClashes(plan(twins, [withoutClash(web, 'counter')!]))).toEqual([]);
    const others = masters('a.jpg', 'b.jpg');
    const mail = preset('Mail', original);
    expect(nameClashes(plan(others, [web, mail]))).toEqual([{ presetId: '1', outputs: 2, fileName: 'a-2.jpg', by: 'preset' }]);
    expect(nameClashes(plan(others, [web, withoutClash(mail, 'preset')!]))).toEqual([]);
    // What is its own doing, too, is mended by a counter.
    expect(nameClashes(plan(twins, [web, mail]))).toMatchObject([
      { presetId: '1', by: 'counter', outputs: 3 },
      { presetId: '0', by: 'counter', outputs: 1 },
    ]);
    expect(withoutClash(withoutClash(web, 'counter')!, 'counter')).toBeNull();
    expect(nameClashes(plan(others, [web]))).toEqual([]);
  });
});
