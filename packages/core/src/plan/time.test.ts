import { describe, expect, it } from 'vitest';
import { soundFacts } from '../facts/sound-facts';
import { Preset } from '../preset/schema';
import { groupRemarks, staleSentence } from './remarks';
import { expectedMs, type Pace, runTime, slowerBy } from './time';

const preset = (file: object = {}) => Preset.parse({ kind: 'rundle.preset', version: 1, title: 'Web', file });
const size = { width: 2048, height: 1365 };
const ms = (file: object = {}, isFirst = false) => expectedMs(soundFacts, size, preset(file), isFirst);

describe('the expected time', () => {
  it('of an output counts decoding once, searches for all their tries, and slow types for what they are', () => {
    expect(ms({}, true) - ms()).toBeGreaterThan(200); // 24 megapixels of JPEG
    expect(ms({ ceiling: { bytes: 200_000 } })).toBeGreaterThan(1.3 * ms());
    expect(ms({ type: 'avif' })).toBeGreaterThan(ms({ type: 'webp' }));
    expect(ms({ match: 0.98 })).toBeGreaterThan(ms({ ceiling: { bytes: 200_000 } }));
    expect(ms({ type: 'original' }, true)).toBeLessThan(100);
  });

  it('of a run follows what this machine has done, type by type where that is enough, and shares it among the workers', () => {
    const outputs = [
      { type: 'jpeg' as const, expectedMs: 1000 },
      { type: 'avif' as const, expectedMs: 1000 },
    ];
    expect(runTime(outputs, [], 1)).toBe(2000);
    expect(runTime(outputs, [], 4)).toBe(500);
    // Three programs that work on two cores beside one worker take half of them.
    expect([slowerBy(0.1, 2, 4), slowerBy(3, 1, 2)]).toEqual([1, 2]);
    expect(runTime(outputs, [], 4, slowerBy(3, 1, 2))).toBe(1000);
    const pace = (type: Pace['type'], factor: number, count: number): Pace => ({
      type,
      expectedMs: 1000 * count,
      ms: 1000 * count * factor,
      count,
    });
    expect(runTime(outputs, [pace('jpeg', 2, 30)], 1)).toBe(4000);
    expect(runTime(outputs, [pace('jpeg', 2, 30), pace('avif', 5, 30)], 1)).toBe(7000);
    // Two outputs tell nothing of a type: it goes as the rest does.
    expect(runTime(outputs, [pace('jpeg', 2, 98), pace('avif', 50, 2)], 1)).toBeLessThan(7000);
    expect(runTime(outputs, [pace('jpeg', 9, 3)], 1)).toBe(2000);
  });
});

describe('what is said once above a sheet', () => {
  const look = { code: 'smaller-than-asked', severity: 'look', message: 'Small.' } as const;
  const note = { code: 'kept-whole', severity: 'note', message: 'Whole.' } as const;
  const cell = (masterId: string, presetId: string, more: object = {}) => ({ masterId, presetId, remarks: [], error: null, ...more });

  it('is told by kind, with its pictures and outputs, failures first; notes are not', () => {
    const groups = groupRemarks([
      cell('a', '1', { remarks: [look, note, look] }),
      cell('a', '2', { remarks: [look] }),
      cell('b', '1', { error: { code: 'damaged', message: 'Cut off.' } }),
      cell('c', '1', { remarks: [note] }),
    ]);
    expect(groups.map(({ code, kind, pictures, outputs }) => [code, kind, pictures, outputs])).toEqual([
      ['damaged', 'failure', 1, 1],
      ['smaller-than-asked', 'look', 1, 2],
    ]);
    expect(groups[1]!.toDo).toMatch(/enlarging/);
  });

  it('says how many files are out of date, and why', () => {
    expect(staleSentence([], 4)).toBeNull();
    expect(staleSentence(['preset', 'preset'], 48)).toBe('2 of 48 are out of date: preset changed');
    expect(staleSentence(['credit'], 1)).toBe('1 of 1 is out of date: credit changed');
  });
});
