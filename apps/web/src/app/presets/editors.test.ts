import { PARTS, parsePreset, Preset, presetSentences, starterPresets, type StoredWatermark, valueAt } from '@rundle/core';
import { describe, expect, it } from 'vitest';
import { editorOf } from './editors';
import { withValue } from './paths';

const preset = (more: object = {}) => Preset.parse({ kind: 'rundle.preset', version: 1, title: 'X', ...more });
const fieldsOf = (of: Preset) =>
  PARTS.flatMap((part) => presetSentences(of)[part].flatMap((piece) => (piece.kind === 'value' ? [piece.field] : [])));

const WATERMARKS: StoredWatermark[] = [
  {
    id: '0c8b5a51-6a0a-4a53-9d43-1f6c2f9a7a10',
    title: 'Name',
    kind: 'text',
    typeface: 'sans',
    edge: 'none',
    adapt: false,
    text: 'Lanternfold',
    colour: '#ffffff',
    state: 'ready',
    problem: null,
  },
];

const HERE = { watermarks: WATERMARKS, fileTypes: [{ type: 'avif' as const, ready: false }] };

/** Presets that show every value a sentence can hold. */
const SHOWN = [
  ...starterPresets().map(({ preset }) => preset),
  ...['original', 'box', 'percent', 'megapixels', 'short-edge'].map((fit) =>
    preset({ size: { fit, width: 900, percent: 50, megapixels: 2 } }),
  ),
  preset({ size: { fit: 'cover', width: 1080, height: 1080 }, border: { px: 10 }, sharpen: null }),
  preset({ file: { ceiling: { bytes: 200_000 } }, metadata: { rights: 'remove' } }),
  ...['webp', 'avif', 'png', 'tiff'].map((type) => preset({ file: { type } })),
  preset({ file: { match: 0.98 }, mark: { watermark: WATERMARKS[0]!.id }, colour: { space: 'keep' } }),
  preset({ file: { type: 'tiff', bits: 16 } }),
];

describe('every value of every sentence', () => {
  it('offers no file type that cannot be written here', () => {
    const offered = (here?: typeof HERE) => {
      const editor = editorOf('file.type', here);
      return editor.kind === 'choice' ? editor.options.map(({ value }) => value) : [];
    };
    expect(offered()).toContain('avif');
    expect(offered(HERE)).toEqual(offered().filter((type) => type !== 'avif'));
  });

  it('stands at its field and can be edited', () => {
    for (const shown of SHOWN)
      for (const field of fieldsOf(shown)) {
        expect(valueAt(shown, field), field).toBeDefined();
        const editor = editorOf(field, HERE);
        if (editor.kind === 'choice') expect(editor.options.length, field).toBeGreaterThan(0);
      }
  });

  it('offers only what leads to a preset that holds together', () => {
    for (const shown of SHOWN)
      for (const field of fieldsOf(shown)) {
        const editor = editorOf(field, HERE);
        const values = editor.kind === 'choice' ? editor.options.map(({ value }) => value) : editor.kind === 'flip' ? editor.values : [];
        for (const value of values) {
          const parsed = parsePreset(withValue(shown, field, value));
          expect(parsed, `${field} = ${JSON.stringify(value)}`).toMatchObject({ ok: true });
        }
      }
  });

  it('stays on whole steps when arrow keys count a number up', () => {
    const numbers = SHOWN.flatMap(fieldsOf).map((field) => editorOf(field, HERE));
    for (const editor of numbers) {
      if (editor.kind !== 'number') continue;
      const steps = editor.min / editor.step;
      expect(Math.abs(steps - Math.round(steps)), editor.label).toBeLessThan(1e-9);
      expect(editor.max, editor.label).toBeGreaterThan(editor.min);
    }
    expect(editorOf('size.px')).toMatchObject({ min: 1, max: 65_500, step: 1 });
  });

  it('reads differently after it has been flipped', () => {
    const before = preset();
    for (const field of fieldsOf(before)) {
      const editor = editorOf(field, HERE);
      if (editor.kind !== 'flip') continue;
      const value = editor.values.find((other) => other !== valueAt(before, field));
      expect(JSON.stringify(presetSentences(withValue(before, field, value)))).not.toBe(JSON.stringify(presetSentences(before)));
    }
  });
});

describe('changing a value', () => {
  it('leaves the rest of the preset and the preset itself as they were', () => {
    const before = preset();
    const after = withValue(before, 'file.quality', 61);
    expect(after).toEqual({ ...before, file: { ...before.file, quality: 61 } });
    expect(before.file.quality).toBe(80);
  });

  it('gives a new way to fit the lengths that it needs', () => {
    for (const fit of ['box', 'cover', 'stretch', 'percent', 'megapixels'])
      expect(parsePreset(withValue(preset(), 'size.fit', fit)).ok).toBe(true);
    expect(withValue(preset({ size: { ppi: null } }), 'size.unit', 'cm').size.ppi).toBe(300);
    expect(withValue(preset({ size: { fit: 'box', width: 900 } }), 'size.turn', false).size.height).toBeNull();
  });
});
