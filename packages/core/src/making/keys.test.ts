import { describe, expect, it } from 'vitest';
import { NO_DECISIONS } from '../decisions/decisions';
import { StudioDetails } from '../metadata/studio';
import { Preset, type PresetInput } from '../preset/schema';
import { carriedPreset } from '../decisions/decisions';
import { changesSinceEngine, COMPARABLE_FROM, ENGINE } from './engines';
import { type Depends, type Ingredients, keyOf } from './keys';
import { makingOf } from './making';
import { recipeText } from './recipe';

const preset = (more: Partial<PresetInput> = {}) => Preset.parse({ kind: 'rundle.preset', version: 1, title: 'X', ...more });
const plain: Ingredients = {
  content: 'c',
  facts: { exifSpace: null },
  preset: preset(),
  studio: StudioDetails.parse({ creator: 'Ann' }),
  watermark: null,
};
const ALL: Depends[] = ['pixels', 'file', 'bytes', 'judged'];
/** Which keys another value changes. */
const changed = (more: Partial<Ingredients>, from: Partial<Ingredients> = {}) =>
  ALL.filter((depends) => keyOf(depends, { ...plain, ...from }) !== keyOf(depends, { ...plain, ...from, ...more }));

describe('what decides about pixels, the file and its weight', () => {
  it('is known of every rung of a preset, of the picture and of the studio', () => {
    expect(changed({ content: 'd' })).toEqual(ALL);
    expect(changed({ facts: { exifSpace: 'srgb' } })).toEqual(ALL);
    for (const more of [
      { size: { px: 9 } },
      { colour: { dither: false } },
      { sharpen: null },
      { border: { px: 3 } },
      { file: { type: 'png' } }, // transparency
      { file: { type: 'tiff', bits: 16 } },
      { file: { type: 'jxl' } }, // always says its colours
    ] as Partial<PresetInput>[])
      expect(changed({ preset: preset(more) }), JSON.stringify(more)).toEqual(ALL);
    expect(changed({ watermark: 'w' }, { preset: preset({ mark: { watermark: 'w' } }) })).toEqual(ALL);
    for (const file of [{ quality: 3 }, { progressive: false }, { chroma: '4:4:4' }, { match: 0.9 }] as PresetInput['file'][])
      expect(changed({ preset: preset({ file }) })).toEqual(['file', 'bytes', 'judged']);
    expect(changed({ preset: preset({ file: { type: 'webp' } }) }, { preset: preset({ file: { type: 'avif' } }) })).toEqual([
      'file',
      'bytes',
      'judged',
    ]);
    expect(changed({ preset: preset({ metadata: { capture: 'keep' } }) })).toEqual(['bytes', 'judged']);
    expect(changed({ preset: preset({ name: { parts: [{ part: 'text', text: 'n' }] }, folder: 'f', title: 'Y' }) })).toEqual([]);
  });

  it('is told apart from what is thought of it, which is another by another judge', () => {
    expect(new Set(ALL.map((depends) => keyOf(depends, plain))).size).toBe(ALL.length);
  });

  it('counts the studio where it fills in, and metadata for the file where a ceiling leaves them their room', () => {
    const studio = StudioDetails.parse({ creator: 'Somebody else' });
    const fills = { preset: preset({ metadata: { rights: 'keep', fill: true } }) };
    expect(changed({ studio }, fills)).toEqual(['bytes', 'judged']);
    const under = { preset: preset({ metadata: { rights: 'keep', fill: true }, file: { ceiling: { bytes: 5000 } } }) };
    expect(changed({ studio }, under)).toEqual(['file', 'bytes', 'judged']);
    expect(changed({ studio }, { preset: preset({ metadata: { rights: 'remove' } }) })).toEqual([]);
  });
});

describe('a recipe', () => {
  it('is written as ever, byte for byte, also for an engine before this one', () => {
    const { studio } = plain;
    const of = preset({ size: { px: 740 }, file: { quality: 75, ceiling: { bytes: 120_000, floor: 50, then: 'shrink' } }, sharpen: null });
    const text = `"m",{"size":{"px":740},"sharpen":null,"file":{"quality":75,"ceiling":{"bytes":120000,"floor":50}},"details":{"creator":"Ann"}}]`;
    const recipe = { master: 'm', preset: of, studio, watermark: null };
    expect(recipeText(recipe)).toBe(`[${ENGINE},${text}`);
    expect(recipeText({ ...recipe, engine: 6 })).toBe(`[6,${text}`);
  });
});

describe('an engine', () => {
  it('says what it makes otherwise than the one before, since its files are offered by that', () => {
    expect(changesSinceEngine(COMPARABLE_FROM)).toHaveLength(ENGINE - COMPARABLE_FROM);
    expect(changesSinceEngine(ENGINE)).toEqual([]);
  });
});

describe('how an output is made', () => {
  it('has one size: that of the picture with its border; an untouched copy is as large as its master', () => {
    const master = { width: 3000, height: 2000 };
    const of = (more: Partial<PresetInput>) => makingOf(master, preset(more), null, NO_DECISIONS);
    expect(of({ size: { px: 900 }, border: { px: 10 } })).toMatchObject({
      size: { width: 920, height: 620 },
      geometry: { output: { width: 900, height: 600 } },
    });
    expect(of({ file: { type: 'original' } }).size).toEqual(master);
    const cut = preset({ size: { fit: 'cover', width: 100, height: 100 } });
    const decided = { ...NO_DECISIONS, focus: { x: 0, y: 0.5 } };
    expect(makingOf(master, cut, null, decided).geometry.crop).toMatchObject({ left: 0 });
    expect(makingOf(master, cut, null, decided).preset).toEqual(carriedPreset(cut, null, decided));
  });
});
