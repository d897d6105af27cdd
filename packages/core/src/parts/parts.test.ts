import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { NO_DECISIONS } from '../decisions/decisions';
import { soundFacts } from '../facts/sound-facts';
import { makingOf } from '../making/making';
import { recipeText } from '../making/recipe';
import { StudioDetails } from '../metadata/studio';
import { namesAlike } from '../plan/chances';
import { planRun } from '../plan/plan';
import { parsePreset } from '../preset/parse';
import { Preset, type PresetInput } from '../preset/schema';
import { presetInShort } from '../preset/sentences';
import { panelAt, panelGrid, panelsOf } from './panels';
import { missingNameParts, partPreset, presetAndPart, withNameParts } from './parts';
import { PanelsRung } from './schema';
import { sizesInWords, TYPED_CANVAS, TYPED_PANELS, typedSizes } from './typed';

const preset = (more: Partial<PresetInput>) => Preset.parse({ kind: 'rundle.preset', version: 1, title: 'X', ...more });
const family = preset({
  size: {
    sizes: [
      { label: 'small', px: 480, quality: 60 },
      { label: 'large', px: 2048, ceiling: { bytes: 400_000 } },
    ],
  },
  file: { quality: 85 },
  name: { parts: [{ part: 'original' }, { part: 'text', text: '-' }, { part: 'size' }] },
});
const triptych = preset({
  size: { fit: 'cover', width: 24, height: 10, unit: 'in', ppi: 300, turn: false, enlarge: true },
  panels: { columns: 3, rows: 1 },
});
const problems = (more: object) => {
  const parsed = parsePreset({ kind: 'rundle.preset', version: 1, title: 'X', ...more });
  return parsed.ok ? [] : parsed.problems.map(({ field, message }) => `${field}: ${message}`);
};
const planned = (of: Preset) =>
  planRun({
    setTitle: 'Set',
    masters: [{ id: 'm', fileName: 'boat.jpg', read: { ok: true, facts: soundFacts }, rating: 0, tags: [] }],
    presets: [{ id: 'p', preset: of, problem: null }],
    standing: () => ({ is: 'free' }),
  });

describe('a family of sizes', () => {
  it('makes each size as a preset of that size alone would, to its recipe', () => {
    const plain = { ...preset({ size: { px: 480 }, file: { quality: 60 } }), name: family.name };
    const of = (one: Preset) => recipeText({ master: 'm', preset: one, studio: StudioDetails.parse({}), watermark: null });
    expect(of(partPreset(family, 'small'))).toBe(of(plain));
    expect(partPreset(family, 'large').file).toMatchObject({ quality: 85, ceiling: { bytes: 400_000 } });
    expect(planned(family)).toMatchObject([
      { status: 'planned', part: 'small', fileName: 'boat-small.jpg', width: 480 },
      { status: 'planned', part: 'large', fileName: 'boat-large.jpg', width: 2048 },
    ]);
  });

  it('is not made under names that do not tell it apart, and one change mends that', () => {
    const unnamed = { ...family, name: { ...family.name, parts: [{ part: 'original' as const }] } };
    expect(planned(unnamed)).toMatchObject([
      { status: 'failed', error: { code: 'names-alike', field: 'name.parts' } },
      { status: 'failed' },
    ]);
    expect(missingNameParts(unnamed)).toEqual(['size']);
    expect(namesAlike(withNameParts(unnamed))).toBeNull();
    expect(missingNameParts(withNameParts(triptych))).toEqual([]);
  });

  it('is typed on one line, and reads back as it was typed', () => {
    const line = 'small 480 quality 60, hero width 1920 at most 400 KB, box 2 inside 1024 × 768, quarter 25 %, all full size';
    const read = typedSizes(line)!;
    expect(read.map(({ label, fit }) => [label, fit])).toEqual([
      ['small', 'long-edge'],
      ['hero', 'width'],
      ['box 2', 'box'],
      ['quarter', 'percent'],
      ['all', 'original'],
    ]);
    expect(sizesInWords(read)).toBe(line);
    expect(typedSizes('small')).toBeUndefined();
    expect(problems({ size: { sizes: read } })).toEqual([]);
    expect(presetInShort(family)).toContain('small 480 quality 60, large 2048 at most 400 KB px');
  });
});

describe('panels', () => {
  it('of three 8 x 10 in at 300 ppi are 2400 x 3000 px (common practice, no source)', () => {
    const making = makingOf({ width: 6000, height: 4000 }, partPreset(triptych, 'r1c2'), null, NO_DECISIONS);
    expect(making).toMatchObject({ size: { width: 2400, height: 3000 }, panel: { left: 2400, top: 0 } });
    const bySize = { ...triptych, panels: PanelsRung.parse({ width: 8, height: 10, unit: 'in' }) };
    expect(planned(withNameParts(bySize)).map((output) => output.part)).toEqual(['r1c1', 'r1c2', 'r1c3']);
  });

  const grid = fc.record({
    columns: fc.integer({ min: 1, max: 7 }),
    rows: fc.integer({ min: 1, max: 7 }),
    overlap: fc.constantFrom(0, 0, 5, -5),
    order: fc.constantFrom('rows' as const, 'columns' as const),
  });
  const picture = fc.record({ width: fc.integer({ min: 60, max: 5000 }), height: fc.integer({ min: 60, max: 5000 }) });

  it('put together are the picture: none overlaps, nothing is left out, unless that is asked for', () => {
    fc.assert(
      fc.property(grid, picture, (rung, size) => {
        const panels = panelsOf(PanelsRung.parse(rung), size, null);
        expect(panels).toHaveLength(rung.columns * rung.rows);
        const row = panels.filter((panel) => panel.row === 1).map(({ rectangle }) => rectangle);
        expect(row[0]!.left).toBe(0);
        expect(row.at(-1)!.left + row.at(-1)!.width).toBe(size.width);
        for (const [at, one] of row.slice(1).entries()) {
          const shared = row[at]!.left + row[at]!.width - one.left;
          expect(Math.abs(shared - rung.overlap)).toBeLessThanOrEqual(rung.overlap === 0 ? 0 : 1);
        }
        const area = panels.reduce((sum, { rectangle }) => sum + rectangle.width * rectangle.height, 0);
        if (rung.overlap === 0) expect(area).toBe(size.width * size.height);
      }),
    );
  });

  it('of a size leave over what fits none, half of it on either side', () => {
    const rung = PanelsRung.parse({ width: 400, height: 300, overlap: -20 });
    const size = { width: 1300, height: 640 };
    expect(panelGrid(rung, size, null)).toEqual({ columns: 3, rows: 2, left: { x: 60, y: 20 } });
    expect(panelAt(rung, size, null, 2, 1)).toEqual({ left: 450, top: 10, width: 400, height: 300 });
    expect(panelAt(rung, size, null, 4, 1)).toBeNull();
    const none = withNameParts(preset({ size: { px: 900 }, panels: { width: 1000, height: 1000 } }));
    expect(planned(none)).toMatchObject([{ status: 'failed', error: { code: 'panel-too-large' } }]);
  });

  it('are typed by number or by size, and asked for by their preset and their place', () => {
    expect(TYPED_PANELS.read('3 x 1', null)).toMatchObject({ columns: 3, rows: 1, width: null });
    expect(TYPED_PANELS.read('8 × 10 in', null)).toMatchObject({ columns: null, width: 8, height: 10, unit: 'in' });
    expect(TYPED_CANVAS.read('2,5 cm', null)).toMatchObject({ width: 2.5, unit: 'cm', fill: 'mirror' });
    expect(presetAndPart(partPreset(triptych, 'r1c3'))).toEqual({ preset: triptych, part: 'r1c3' });
  });
});

describe('a preset that cannot be made so', () => {
  it('is refused by the field, with what to do', () => {
    const inches = { width: 1, unit: 'in' };
    expect(problems({ size: { ppi: null }, canvas: inches })[0]).toMatch(
      /^size.ppi: .*a resolution, because the canvas edges are in cm or inches/,
    );
    expect(problems({ file: { type: 'original' }, canvas: inches })[0]).toMatch(/^canvas: .*untouched copy/);
    expect(problems({ file: { type: 'original' }, size: { sizes: [{ label: 'a', px: 1 }] } })[0]).toMatch(/^size.sizes/);
    expect(problems({ panels: { columns: 2, rows: 1 }, size: { sizes: [{ label: 'a', px: 1 }] } })[0]).toMatch(/^panels: .*several sizes/);
    expect(problems({ panels: { columns: 2, rows: 1 }, file: { ceiling: { bytes: 5000 } } })[0]).toMatch(
      /^file.ceiling.then: .*cannot shrink/,
    );
    expect(problems({ panels: { columns: 2 } })[0]).toMatch(/^panels.rows/);
    const twice = {
      sizes: [
        { label: 'A', px: 1 },
        { label: 'a', px: 2 },
      ],
    };
    expect(problems({ size: twice })[0]).toMatch(/^size.sizes.1.label: .*another name/);
  });
});
