import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { Preset } from '../preset/schema';
import { AXES, AXIS_IDS, axesOf, axisValues, withValues } from './axes';
import { differenceOf, faultsOf, MOST_DIFFERENCE } from './judgement';
import { stripOf } from './strip';

const preset = (more: object = {}) => Preset.parse({ kind: 'rundle.preset', version: 1, title: 'Web', ...more });

describe('a test strip', () => {
  it('has fourteen qualities, the preset’s own among them, the nearest first', () => {
    const { columns, rows, tiles } = stripOf(preset({ file: { quality: 82 } }), 'quality', null);
    expect(columns).toEqual([30, 35, 40, 45, 50, 55, 60, 65, 70, 75, 82, 85, 90, 95]);
    expect(rows).toEqual([null]);
    expect(tiles[0]).toMatchObject({ isPresent: true, says: 'Quality 82', preset: { file: { quality: 82 } } });
    expect(tiles.slice(0, 4).map(({ preset: { file } }) => file.quality)).toEqual([82, 75, 85, 70]);
    expect(tiles.filter(({ isPresent }) => isPresent)).toHaveLength(1);
  });

  it('varies two values against each other, and gives both to the preset', () => {
    const own = preset({ sharpen: { amount: 0.7, radius: 0.8, threshold: 0.02 }, file: { ceiling: { bytes: 400_000 } } });
    const { tiles, columns, rows } = stripOf(own, 'amount', 'radius');
    expect([columns, rows]).toEqual([
      [0, 0.4, 0.7, 1.1],
      [0.5, 0.8, 1.2],
    ]);
    expect(tiles).toHaveLength(12);
    const strong = tiles.find(({ says }) => says === 'Amount 1.1, Radius 1.2 px')!;
    expect(withValues(own, strong.values)).toEqual({ ...own, sharpen: { amount: 1.1, radius: 1.2, threshold: 0.02 } });
    expect(tiles.find(({ says }) => says === 'Not sharpened, Radius 0.5 px')!.preset.sharpen).toBeNull();
    // Not sharpened so far: the strip begins there.
    expect(stripOf(preset({ sharpen: null }), 'amount', null).tiles[0]).toMatchObject({ isPresent: true, says: 'Not sharpened' });
  });

  it('of qualities is without the ceiling, which stays in force when one is taken over', () => {
    const own = preset({ file: { quality: 90, match: 0.98, ceiling: { bytes: 300_000 } } });
    const { tiles } = stripOf(own, 'quality', null);
    expect(tiles.every(({ preset: { file } }) => file.ceiling === null && file.match === null)).toBe(true);
    expect(tiles.some(({ isPresent }) => isPresent)).toBe(false);
    expect(withValues(own, tiles[0]!.values).file.ceiling).toMatchObject({ bytes: 300_000 });
  });

  it('leaves out what cannot be made here', () => {
    const { columns } = stripOf(preset(), 'type', null, (id, value) => id !== 'type' || value !== 'jxl');
    expect(columns).toEqual(['jpeg', 'webp', 'avif']);
    expect(axesOf(preset({ file: { type: 'png' } }))).not.toContain('quality');
    expect(axesOf(preset({ size: { fit: 'megapixels', megapixels: 2 } }))).not.toContain('px');
  });

  it('has tiles that are presets, whatever is varied of whatever preset', () => {
    const presets = fc.record({
      file: fc.record({
        type: fc.constantFrom('jpeg', 'webp', 'avif', 'jxl'),
        quality: fc.integer({ min: 1, max: 100 }),
        chroma: fc.constantFrom('auto', '4:2:0', '4:4:4'),
      }),
      size: fc.record({ px: fc.integer({ min: 100, max: 5000 }), kernel: fc.constantFrom('nearest', 'lanczos3') }),
      sharpen: fc.option(
        fc.record({ amount: fc.double({ min: 0, max: 5, noNaN: true }), radius: fc.double({ min: 0.2, max: 10, noNaN: true }) }),
      ),
    });
    fc.assert(
      fc.property(presets, fc.constantFrom(...AXIS_IDS), fc.constantFrom(...AXIS_IDS), (more, across, down) => {
        const own = preset(more);
        const strip = stripOf(own, across, across === down ? null : down);
        for (const tile of strip.tiles) expect(Preset.safeParse(withValues(own, tile.values)).success).toBe(true);
        expect(new Set(strip.tiles.map(({ column, row }) => `${column} ${row}`)).size).toBe(strip.tiles.length);
        const value = AXES[across].of(own);
        if (value !== null) expect(axisValues(across, own)).toContain(value);
      }),
    );
  });
});

describe('a judgement', () => {
  it('is said in a word, by thresholds that rise', () => {
    const { same, visible } = MOST_DIFFERENCE;
    expect([0, same, (same + MOST_DIFFERENCE['just visible']) / 2, visible, visible + 0.01].map(differenceOf)).toEqual([
      'same',
      'same',
      'just visible',
      'visible',
      'poor',
    ]);
  });

  it('names the faults that exceed what is seldom seen', () => {
    const sound = { judgement: { difference: 0.002, likeness: 0.99, banding: 0.0005, blocks: null }, halo: { seen: 0.00001 }, gamut: null };
    expect(faultsOf(sound)).toEqual([]);
    expect(
      faultsOf({ judgement: { difference: 0.1, likeness: 0.9, banding: 0.2, blocks: 0.3 }, halo: { seen: 0.01 }, gamut: { share: 0.2 } }),
    ).toEqual(['banding', 'blocks', 'halos', 'clipping']);
  });
});
