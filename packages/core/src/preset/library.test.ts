import { describe, expect, it } from 'vitest';
import { bundleOf, fileNameOf, parseBundleText } from './bundle';
import { changesBetween } from './changes';
import { Preset } from './schema';
import { parsePreset } from './parse';
import { presetSentences } from './sentences';
import { starterPresets } from './starters';
import { idleValues, risksOf } from './warnings';

const preset = (more: object = {}) => Preset.parse({ kind: 'rundle.preset', version: 1, title: 'Web', ...more });
const spoken = (value: Preset) =>
  Object.values(presetSentences(value))
    .flat()
    .map(({ text }) => text)
    .join('');

describe('the starter set', () => {
  it('has the usual targets, each with its purpose, in groups, and nothing that a preset refuses or does in vain', () => {
    const starters = starterPresets();
    const titles = starters.map(({ preset: { title } }) => title);
    expect(new Set(titles).size).toBe(titles.length);
    for (const words of [
      'Phone 480',
      'Mail 740',
      '850',
      '1024 x 768',
      'Square feed 1080',
      '1280',
      '1440 x 1000',
      'Full HD 1920',
      'Hero 1920',
    ])
      expect(titles.filter((title) => title.includes(words))).toHaveLength(1);
    for (const words of ['Feed 2048', 'Shop short edge 2000', 'Print copy 4000', '300 ppi', 'TIFF 16-bit', 'Untouched copy'])
      expect(titles.filter((title) => title.includes(words))).toHaveLength(1);
    for (const { group, preset: value } of starters) {
      expect(group).not.toBe('');
      expect(value.notes).not.toBe('');
      expect(idleValues(value).filter(({ path }) => !/kernel|light|enlarge|dither|backdrop|turn/.test(path))).toEqual([]);
    }
  });
});

describe('an untouched copy', () => {
  it('leaves all rungs that would change something at their defaults, and is told by label when it does not', () => {
    expect(parsePreset({ kind: 'rundle.preset', version: 1, title: 'Copy', file: { type: 'original' } }).ok).toBe(true);
    const wrong = parsePreset({
      kind: 'rundle.preset',
      version: 1,
      title: 'Copy',
      file: { type: 'original' },
      size: { px: 900 },
      sharpen: null,
      metadata: { place: 'keep' },
      border: { px: 3 },
    });
    expect(!wrong.ok && wrong.problems.map(({ field }) => field)).toEqual(['size.px', 'sharpen', 'metadata.place', 'border']);
    expect(!wrong.ok && wrong.problems[0]!.message).toMatch(/^Edge length: left at its default/);
    expect(spoken(preset({ file: { type: 'original' } }))).toContain('where it was made included');
  });
});

describe('changes between two presets', () => {
  it('are told field by field in words, a group that comes or goes as a whole', () => {
    const before = preset({ sharpen: null });
    const after = preset({ size: { px: 900, enlarge: true }, file: { quality: 60, ceiling: { bytes: 300_000, floor: 55 } } });
    expect(changesBetween(before, after).map(({ label, from, to }) => `${label}: ${from} → ${to}`)).toEqual([
      'Edge length: 2048 → 900',
      'Enlarging: never enlarged → enlarged where needed',
      'Sharpening: Not sharpened → Sharpened for the screen',
      'Quality: 80 → 60',
      'Ceiling: whatever it weighs → at most 300 KB',
    ]);
    const lower = preset({ ...after, file: { ...after.file, ceiling: { bytes: 300_000, floor: 40 } } });
    expect(changesBetween(after, lower).map(({ path }) => path)).toEqual(['file.ceiling.floor']);
    expect(changesBetween(after, after)).toEqual([]);
    expect(changesBetween(preset(), preset({ metadata: { place: 'keep' } }))).toEqual([
      { path: 'metadata.place', label: 'Place', from: 'removed', to: 'kept' },
    ]);
  });
});

describe('a bundle file', () => {
  const marked = preset({ title: 'Marked', mark: { watermark: 'logo' } });
  const mark = { id: 'logo', title: 'Logo', mark: { kind: 'rundle.watermark', version: 1, text: '© Me' } };

  it('holds presets with their watermarks, is a bundle of one for a preset file, and comes back as it went', () => {
    const read = parseBundleText(
      JSON.stringify({ kind: 'rundle.bundle', version: 1, title: 'Both', presets: [preset(), marked], watermarks: [mark] }),
    );
    expect(read.ok && read.value.watermarks[0]!.mark).toMatchObject({ typeface: 'sans', edge: 'none', adapt: false });
    expect(read.ok && parseBundleText(JSON.stringify(read.value))).toEqual(read);
    expect(parseBundleText(JSON.stringify(preset()))).toEqual({ ok: true, value: bundleOf('Web', [preset()]) });
  });

  it('that is wrong says which preset and which field, by its label', () => {
    const said = (json: unknown) => {
      const read = parseBundleText(typeof json === 'string' ? json : JSON.stringify(json));
      return read.ok ? [] : read.problems.map(({ message }) => message);
    };
    const bundle = { kind: 'rundle.bundle', version: 1, title: 'Both' };
    expect(said({ ...bundle, presets: [preset(), { ...preset({ title: 'Print' }), file: { quality: 101 } }] })).toEqual([
      '“Print”: Quality: a whole number from 1 to 100, not 101.',
    ]);
    expect(said({ ...bundle, presets: [] })[0]).toContain('at least one preset');
    expect(said({ kind: 'rundle.watermark' })[0]).toContain('neither a preset nor a bundle');
    expect(said('{')[0]).toContain('not valid JSON');
    expect(fileNameOf('Web & print, für Ærø', 'bundle')).toBe('web-print-fur-aero.bundle.json');
  });
});

describe('warnings about a preset', () => {
  it('name values that do nothing in it, and only these', () => {
    const paths = (more: object) => idleValues(preset(more)).map(({ path }) => path);
    expect(paths({})).toEqual([]);
    expect(paths({ file: { type: 'png', bits: 16 } })).toEqual(['colour.dither', 'colour.backdrop']);
    expect(paths({ size: { fit: 'original' } })).toEqual(['size.kernel', 'size.light', 'size.enlarge']);
    expect(paths({ size: { fit: 'cover', width: 900, height: 900 } })).toEqual(['size.turn']);
  });

  it('name what is risky where it is set', () => {
    const parts = (more: object) => risksOf(preset(more)).map(({ part }) => part);
    expect(parts({})).toEqual([]);
    expect(parts({ file: { quality: 49 } })).toEqual(['file']);
    expect(parts({ file: { type: 'png', quality: 49 } })).toEqual([]);
    expect(parts({ sharpen: { amount: 3, radius: 2.5 }, metadata: { place: 'keep' } })).toEqual(['sharpen', 'metadata']);
  });
});
