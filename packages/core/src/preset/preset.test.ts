import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { parsePreset, parsePresetText } from './parse';
import { Preset, presetJsonSchema } from './schema';
import { PARTS, presetInShort, presetSentences } from './sentences';
import { starterPresets } from './starters';

const least = { kind: 'rundle.preset', version: 1, title: 'X' } as const;
const problemsOf = (json: unknown) => {
  const parsed = parsePreset(json);
  return parsed.ok ? [] : parsed.problems;
};

describe('the preset file', () => {
  it('needs nothing but kind, version and title', () => {
    const parsed = parsePreset(least);
    expect(parsed).toMatchObject({ ok: true, value: { size: { fit: 'long-edge', px: 2048 }, sharpen: { amount: 0.7 }, folder: 'web' } });
  });

  it('says which field is wrong, what is allowed and what came', () => {
    expect(problemsOf({ ...least, file: { quality: 101 } })).toEqual([
      { code: 'preset-field', field: 'file.quality', message: 'Quality: a whole number from 1 to 100, not 101.' },
    ]);
    expect(problemsOf({ ...least, size: { fit: 'long-edge', pixel: 3 } })[0]).toMatchObject({ field: 'size.pixel' });
    expect(problemsOf({ ...least, size: { fit: 'cover', width: 100 } })[0]?.message).toContain('because the fit is “Cut to fill”');
    expect(problemsOf({ ...least, name: { parts: [{ part: 'counter', digits: 12 }] } })[0]?.field).toBe('name.parts.0.digits');
    expect(parsePresetText('{"kind":').ok).toBe(false);
  });

  it.each([
    ['version', 2],
    ['folder', '../outside'],
    ['folder', '/absolute'],
    ['folder', 'a//b'],
    ['size', { px: 0 }],
    ['size', { px: 12.5 }],
    ['size', { unit: 'cm', ppi: null }],
    ['sharpen', { amount: 6 }],
    ['file', { type: 'png', ceiling: { bytes: 5000 } }],
    ['file', { bits: 16 }],
    ['name', { parts: [] }],
    ['name', { parts: [{ part: 'text', text: 'a/b' }] }],
    ['name', { parts: [{ part: 'date', pattern: 'yyyy/MM' }] }],
    ['border', { px: 10, colour: 'white' }],
  ])('refuses %s %j', (field, value) => {
    expect(problemsOf({ ...least, [field]: value })[0]?.field).toMatch(new RegExp(`^${field}`));
  });

  it('survives being written and read again, whatever is put into a field', () => {
    fc.assert(
      fc.property(fc.constantFrom(...Object.keys(Preset.shape)), fc.jsonValue(), (field, value) => {
        const parsed = parsePreset({ ...least, [field]: value });
        if (!parsed.ok) return parsed.problems.every((problem) => problem.field?.startsWith(field) ?? false);
        return JSON.stringify(parsePreset(parsed.value)) === JSON.stringify(parsed);
      }),
    );
  });

  it('is described by a JSON Schema made from the same definition', () => {
    expect(presetJsonSchema()).toMatchObject({
      $defs: { Preset: { required: ['kind', 'version', 'title'], additionalProperties: false } },
    });
  });

  it('reads as a sentence on every rung, and says which masters it is for', () => {
    for (const { preset } of starterPresets()) {
      const sentences = presetSentences(preset);
      for (const part of PARTS) expect(sentences[part].map(({ text }) => text).join('')).toMatch(/^[A-Z].*\.$/);
    }
    const size = presetSentences(Preset.parse({ ...least, size: { px: 1920 } })).size;
    expect(size.map(({ text }) => text).join('')).toMatch(/^Long edge 1920 px, in its own ratio, never enlarged\./);
    const heroes = Preset.parse({ ...least, applies: { tags: ['hero', 'cover'], minRating: 4 } });
    expect(
      presetSentences(heroes)
        .applies.map(({ text }) => text)
        .join(''),
    ).toMatch(/^For pictures tagged hero or cover, 4 stars and up;/);
    expect(presetInShort(heroes)).toMatch(/; only tagged hero or cover, 4 stars and up$/);
  });
});
