import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { Preset } from '../preset/schema';
import { isOfAllParts, isVaried, Once, onceOf, onceWith, variable, varied, variedInWords, variedPart } from './once';
import { Place } from './place';

const preset = (more: object = {}) => Preset.parse({ kind: 'rundle.preset', version: 1, title: 'Web', ...more });

describe('what is varied this once', () => {
  it('is only what counts for the preset, and goes before a likeness that is aimed at', () => {
    expect(varied(preset({ file: { match: 0.99 } }), { px: 900, quality: 60, folder: 'tuesday' })).toMatchObject({
      size: { px: 900 },
      file: { quality: 60, match: null },
      folder: 'tuesday',
    });
    const boxed = preset({ size: { fit: 'box', width: 100, height: 80 }, file: { type: 'png' } });
    expect(variable(boxed)).toEqual(['amount', 'radius', 'kernel', 'light', 'exposure', 'saturation', 'space', 'folder']);
    expect(varied(boxed, { px: 900, quality: 60 })).toEqual(boxed);
    // A length in cm is one of pixels this once.
    expect(varied(preset({ size: { px: 12, unit: 'cm', ppi: 300 } }), { px: 900 }).size).toMatchObject({ px: 900, unit: 'px' });
    expect(variable(preset({ file: { type: 'original' } }))).toEqual(['folder']);
  });

  it('is no length of a family, whose sizes are changed in the preset, one by one', () => {
    const sizes = [
      { label: 's', px: 480, quality: 50 },
      { label: 'l', px: 2048 },
    ];
    const family = preset({ size: { sizes } });
    expect(variable(family)).not.toContain('px');
    expect(varied(family, { px: 900, quality: 70 })).toMatchObject({ size: family.size, file: { quality: 70 } });
    expect([
      isOfAllParts(family, 'l', { quality: 70 }),
      isOfAllParts(family, 's', { quality: 70 }),
      isOfAllParts(family, 'l', { px: 9 }),
    ]).toEqual([true, false, false]);
    expect(variedPart(family, 's', { px: 500, quality: 70 }).size.sizes).toMatchObject([
      { px: 500, quality: 70 },
      { px: 2048, quality: null },
    ]);
    expect(variedPart(family, 'l', { quality: 70 })).toMatchObject({
      file: { quality: 70 },
      size: { sizes: [{ quality: 50 }, { quality: null }] },
    });
  });

  it('may be a likeness that is aimed at, instead of a quality, and a ceiling', () => {
    const file = varied(preset({ file: { quality: 70, ceiling: { bytes: 500_000, floor: 50, then: 'fail' } } }), {
      match: 0.98,
      ceiling: 200_000,
    }).file;
    expect(file).toMatchObject({ match: 0.98, ceiling: { bytes: 200_000, floor: 50, then: 'fail' } });
    expect(varied(preset(), { ceiling: 90_000 }).file.ceiling).toMatchObject({ bytes: 90_000, then: 'shrink' });
    const png = preset({ file: { type: 'png' } });
    expect(varied(png, { match: 0.98, ceiling: 90_000 })).toEqual(png);
    expect(onceWith({ px: 900, quality: 70 }, { match: 0.98 })).toEqual({ px: 900, match: 0.98 });
    expect(onceWith({ px: 900, match: 0.98 }, { quality: 70 })).toEqual({ px: 900, quality: 70 });
    expect(onceWith({ match: 0.98 }, { ceiling: 90_000 })).toEqual({ match: 0.98, ceiling: 90_000 });
    expect(onceWith(undefined, { px: 800 })).toEqual({ px: 800 });
  });

  it('always leaves a preset that can be saved', () => {
    const once = fc.record({ px: fc.integer({ min: 1, max: 65_500 }), quality: fc.integer({ min: 1, max: 100 }) }, { requiredKeys: [] });
    const fits = fc.constantFrom('long-edge', 'width', 'original', 'percent');
    fc.assert(
      fc.property(once, fits, fc.constantFrom('jpeg', 'png', 'webp'), (values, fit, type) => {
        const result = varied(preset({ size: { fit, percent: 50 }, file: { type } }), Once.parse(values));
        return Preset.safeParse(result).success;
      }),
    );
  });

  it('may be any value of the preset, by its path', () => {
    const web = preset({ size: { px: 2048 } });
    const wanted = preset({
      size: { fit: 'width', px: 600, enlarge: true },
      file: { quality: 100 },
      sharpen: null,
      border: { px: 20, colour: '#ffffff' },
      name: { parts: [{ part: 'text', text: 'lanterns-' }, { part: 'counter' }] },
    });
    const once = onceOf(web, wanted);
    expect(Object.keys(once.values!).sort()).toEqual([
      'border',
      'file.quality',
      'name.parts',
      'sharpen',
      'size.enlarge',
      'size.fit',
      'size.px',
    ]);
    expect(varied(web, Once.parse(JSON.parse(JSON.stringify(once))))).toEqual(wanted);
    expect(onceOf(web, web)).toEqual({});
    expect(variedInWords(onceOf(web, { ...web, folder: 'tuesday', file: { ...web.file, quality: 55 } }))).toEqual([
      'quality 55',
      'folder tuesday',
    ]);
    // What Proof varies by name goes before it, and takes its place.
    expect(varied(web, { ...once, quality: 70 })).toMatchObject({ size: { px: 600 }, file: { quality: 70 } });
    expect(onceWith(once, { quality: 70 }).values).not.toHaveProperty(['file.quality']);
  });

  it('passes over what does not fit any more, and keeps the rest', () => {
    const boxed = onceOf(preset(), preset({ size: { fit: 'box', width: 400, height: 300 }, file: { quality: 60 } }));
    expect(varied(preset({ title: 'Other' }), boxed)).toMatchObject({ size: { fit: 'box', width: 400 }, file: { quality: 60 } });
    // An untouched copy has no size.
    const copy = preset({ file: { type: 'original' } });
    expect(varied(copy, boxed).size).toEqual(copy.size);
    expect(Preset.safeParse(varied(copy, boxed)).success).toBe(true);
  });

  it('is said as within a sentence', () => {
    const once = { px: 1600, quality: 70, type: 'webp', amount: 0, radius: 1.2, kernel: 'mitchell' } as const;
    expect(variedInWords(once)).toEqual(['quality 70', 'WebP', '1600 px', 'not sharpened', 'radius 1.2 px', 'Mitchell']);
    expect(variedInWords({ match: 0.985, ceiling: 300_000 })).toEqual(['98.5 % fidelity', 'at most 300 KB']);
  });

  it('is nothing where no value is given, and nothing changes then', () => {
    const one = preset();
    expect([isVaried(undefined), isVaried({}), isVaried({ px: 3 })]).toEqual([false, false, true]);
    expect(varied(one, undefined)).toBe(one);
    expect(Once.safeParse({ quality: 101 }).success).toBe(false);
    expect(Once.safeParse({ folder: '../out' }).success).toBe(false);
  });
});

it('a place on the machine is a whole path that leads nowhere else', () => {
  const isPlace = (path: string) => Place.safeParse({ kind: 'folder', path }).success;
  expect(['/srv/out', '/'].map(isPlace)).toEqual([true, true]);
  expect(['srv/out', '', '/srv/../etc', '/srv\0/out'].map(isPlace)).toEqual([false, false, false, false]);
  expect(Place.parse({ kind: 'masters' })).toEqual({ kind: 'masters', folder: '' });
  expect(Place.safeParse({ kind: 'masters', folder: '/abs' }).success).toBe(false);
});
