import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { MasterFacts } from '../facts/facts';
import { soundFacts } from '../facts/sound-facts';
import { Preset } from '../preset/schema';
import { allWeighings, fineEdges, type Weighing, WEIGHED_QUALITIES } from './weighing';
import { bytesAfter, expectedBytes } from './weight';

const NOTHING_KEPT = { rights: 'remove', description: 'remove', capture: 'remove', place: 'remove', rating: 'remove', other: 'remove' };
const preset = (file: object, more: object = {}) =>
  Preset.parse({ kind: 'rundle.preset', version: 1, title: 'Web', file, metadata: NOTHING_KEPT, ...more });
const at = (edge: number, of: number, more: Partial<Weighing> = {}): Weighing => ({
  edge,
  smears: false,
  jpeg: [0.4 * of, 0.55 * of, 0.85 * of, 1.4 * of, 4.4 * of],
  coarse: null,
  full: [1.1 * of, 7 * of],
  unsharpened: 0.7 * of,
  webp: 0.45 * of,
  avif: 0.47 * of,
  fine: null,
  tiff: 9 * of,
  ...more,
});
const weighed: MasterFacts = { ...soundFacts, jpegQuality: null, weighings: [at(500, 2), at(1000, 1.5), at(3000, 1)] };
const about = (file: object, edge = 1000, facts = weighed, more: object = {}) =>
  expectedBytes(facts, { width: edge, height: edge / 2 }, preset(file, more));
/** Without what a file has beside its pixels. */
const bits = (file: object, edge: number, facts = weighed) => (8 * (about(file, edge, facts) - 1100)) / ((edge * edge) / 2);

describe('the expected weight', () => {
  it('is what was weighed, at the sizes and qualities that were', () => {
    for (const weighing of weighed.weighings)
      for (const [index, quality] of WEIGHED_QUALITIES.slice(0, 3).entries())
        expect(bits({ quality, chroma: '4:2:0' }, weighing.edge)).toBeCloseTo(weighing.jpeg[index]!, 2);
    expect(bits({ quality: 80, chroma: '4:4:4' }, 1000)).toBeCloseTo(1.65, 2);
  });

  it('rises with quality and size, whatever was weighed', () => {
    const steps = fc.array(fc.double({ min: 1.02, max: 3, noNaN: true }), { minLength: 5, maxLength: 5 });
    fc.assert(
      fc.property(steps, fc.integer({ min: 20, max: 99 }), fc.integer({ min: 300, max: 4000 }), (factors, quality, edge) => {
        let of = 0.1;
        const jpeg = factors.map((factor) => (of *= factor));
        const coarse = 0.7 * jpeg[0]!;
        const facts = {
          ...weighed,
          weighings: [at(256, 1, { jpeg, coarse }), at(1500, 0.7, { jpeg: jpeg.map((value) => 0.7 * value), coarse: 0.7 * coarse })],
        };
        const file = { chroma: '4:2:0', quality };
        return (
          about({ ...file, quality: quality + 1 }, edge, facts) >= about(file, edge, facts) &&
          about(file, edge + 40, facts) >= about(file, edge, facts)
        );
      }),
    );
  });

  it('counts metadata where there are some to keep, or to fill in', () => {
    const bare: MasterFacts = {
      ...weighed,
      carries: [],
      rights: { ...weighed.rights },
      title: null,
      caption: null,
      keywords: [],
      gps: false,
    };
    for (const name of Object.keys(bare.rights) as (keyof MasterFacts['rights'])[]) bare.rights[name] = null;
    const bytes = (facts: MasterFacts, metadata: object, fills = false) =>
      expectedBytes(facts, { width: 300, height: 200 }, preset({}, { metadata: { ...NOTHING_KEPT, ...metadata } }), 1, fills);
    const none = bytes(bare, {});
    expect(bytes(bare, { rights: 'keep' })).toBe(none);
    expect(bytes({ ...bare, title: 'Quay' }, { rights: 'keep' })).toBe(none);
    expect(bytes({ ...bare, title: 'Quay' }, { description: 'keep' })).toBeGreaterThan(none + 1000);
    expect(bytes(bare, { rights: 'keep' }, true)).toBeGreaterThan(none + 1000);
    expect(bytes(bare, { rights: 'keep', fill: false }, true)).toBe(none);
  });

  it('follows the type, its settings, the sharpening, a border and the ceiling', () => {
    expect(about({ type: 'webp' })).toBeLessThan(about({}));
    expect(about({ type: 'avif', quality: 80 })).toBeGreaterThan(about({ type: 'avif', quality: 60 }));
    expect(about({ match: 0.99 })).toBeGreaterThan(about({ match: 0.97 }));
    expect(about({ type: 'png', bits: 16 })).toBeGreaterThan(about({ type: 'png' }));
    expect(about({ type: 'tiff', compression: 'none' })).toBe(1000 * 500 * 3 + 1000);
    expect(about({ ceiling: { bytes: 20_000 } })).toBe(20_000);
    expect(about({}, 1000, weighed, { sharpen: null })).toBeLessThan(about({}));
    expect(about({}, 1000, weighed, { sharpen: { amount: 1.2 } })).toBeGreaterThan(about({}));
    const framed = expectedBytes(weighed, { width: 1200, height: 700 }, preset({}, { border: { px: 100 } }));
    expect(framed).toBe(about({}));
    expect(about({}, 1000, weighed, { metadata: {} })).toBeGreaterThan(about({}));
  });

  it('beyond the sizes that were weighed goes on to what the master weighs itself, where that is a JPEG', () => {
    const heavy = { ...weighed, width: 6000, height: 3000, jpegQuality: 80, bytes: 9_000_000 };
    expect(bits({ quality: 80 }, 6000, heavy)).toBeCloseTo((8 * 9_000_000) / 18_000_000, 1);
    expect(about({}, 6000, { ...heavy, bytes: 3_000_000 })).toBeLessThan(about({}, 6000, heavy));
  });

  it('at its full size is what was weighed there, which says nothing about smaller ones', () => {
    const facts: MasterFacts = { ...weighed, width: 3000, height: 1500, weighings: [at(500, 2), at(2850, 1), at(3000, 0.4)] };
    expect(bits({ quality: 60, chroma: '4:2:0' }, 3000, facts)).toBeCloseTo(0.55 * 0.4, 2);
    expect(bits({ quality: 60, chroma: '4:2:0' }, 2850, facts)).toBeCloseTo(0.55, 2);
    expect(bits({ quality: 60, chroma: '4:2:0' }, 2990, facts)).toBeGreaterThan(0.5);
  });

  it('of a small picture is found between its small sizes, of which one is its own', () => {
    const facts: MasterFacts = { ...weighed, width: 400, height: 200, weighings: [at(200, 2), at(400, 1)] };
    expect(bits({ quality: 60, chroma: '4:2:0' }, 283, facts)).toBeCloseTo(0.55 * Math.SQRT2, 1);
    expect(bits({ quality: 60, chroma: '4:2:0' }, 400, facts)).toBeCloseTo(0.55, 1);
  });

  it('of a picture that has not been weighed is that of an ordinary one, or as its small picture says', () => {
    const unweighed = { ...soundFacts, weighings: [] };
    const small = (bytes: number) => ({ ...unweighed, proxy: { width: 512, height: 341, bytes } });
    expect(about({}, 2048, unweighed)).toBeGreaterThan(50_000);
    expect(about({}, 2048, small(40_000))).toBeGreaterThan(1.8 * about({}, 2048, small(20_000)));
  });
});

describe('the expected weight of what was made before', () => {
  const file = (more: object = {}) => preset(more).file;

  it('is the real one where nothing has changed, even over its ceiling; else the guess is off as it was, and keeps the ceiling', () => {
    const before = { isSame: false, bytes: 70_000, guessedBytes: 100_000 };
    expect(bytesAfter({ ...before, isSame: true }, 123_456, file({ ceiling: { bytes: 50_000 } }))).toBe(70_000);
    expect(bytesAfter(before, 50_000, file())).toBe(35_000);
    expect(bytesAfter(before, 500_000, file({ ceiling: { bytes: 300_000 } }))).toBe(300_000);
  });

  it('follows no guess that was about something else', () => {
    expect(bytesAfter({ isSame: false, bytes: 900_000, guessedBytes: 100_000 }, 50_000, file())).toBe(100_000);
    expect(bytesAfter({ isSame: false, bytes: 900_000, guessedBytes: 0 }, 50_000, file())).toBe(50_000);
  });
});

describe('weighings', () => {
  it('are taken where the small picture does not say enough', () => {
    expect(fineEdges({ width: 6000, height: 4000 })).toEqual([1500, 3000]);
    expect(fineEdges({ width: 1200, height: 1800 })).toEqual([900, 1710, 1800]);
    expect(fineEdges({ width: 700, height: 500 })).toEqual([]);
  });

  it('at nearly the same size give way to the later one', () => {
    expect(allWeighings([at(256, 1), at(512, 1)], [at(530, 2), at(1000, 2)]).map(({ edge }) => edge)).toEqual([256, 530, 1000]);
  });
});
