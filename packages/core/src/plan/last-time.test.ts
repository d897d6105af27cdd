import { describe, expect, it } from 'vitest';
import { lastTime, latestUsed } from './last-time';

describe('what was chosen last time', () => {
  const run = (day: number, presetIds: string[], more: object = {}) => ({
    setTitle: `Set ${day}`,
    startedAt: `2026-06-0${day}T12:00:00Z`,
    presetIds,
    place: { kind: 'own' as const },
    once: {},
    ...more,
  });
  const runs = [
    run(1, ['a']),
    run(3, ['b', 'gone'], { place: { kind: 'masters', folder: 'web' }, once: { b: { px: 600 }, gone: { px: 1 } } }),
    run(2, ['c']),
    run(4, ['gone']),
  ];

  it('is that of the newest run of which a preset is still there, without what is of no preset', () => {
    expect(lastTime(runs, new Set(['a', 'b', 'c']))).toEqual({
      setTitle: 'Set 3',
      presetIds: ['b'],
      place: { kind: 'masters', folder: 'web' },
      once: { b: { px: 600 } },
    });
    expect(lastTime(runs, new Set(['a']))).toMatchObject({ setTitle: 'Set 1', once: {} });
    expect(lastTime(runs, new Set())).toBeNull();
  });

  it('tells which presets were used last', () => {
    expect(latestUsed(runs)).toEqual(['gone', 'b', 'c', 'a']);
  });
});
