import { Preset } from '@rundle/core';
import { describe, expect, it } from 'vitest';
import { askedFor, fileKey, matchOf, type PictureAsked } from './asked';

const preset = Preset.parse({ kind: 'rundle.preset', version: 1, title: 'Web' });
const size = { width: 200, height: 100 };
const part = (x: number): PictureAsked => ({
  masterId: 'm',
  decided: 'null',
  preset,
  upTo: 'file',
  view: { kind: 'part', x, y: 0.5, size },
});
const match = (shown: PictureAsked, wanted: PictureAsked) => matchOf(askedFor(shown), askedFor(wanted));

describe('what is shown', () => {
  it('is what is wanted only where nothing differs that makes a difference', () => {
    expect(match(part(0.1), part(0.1))).toBe('wanted');
    expect(match(part(0.1), { ...part(0.1), preset: { ...preset, title: 'Another name', folder: 'x' } })).toBe('wanted');
    expect(match(part(0.1), part(0.2))).toBe('elsewhere');
  });

  it.each<[string, Partial<PictureAsked>]>([
    ['another picture', { masterId: 'n' }],
    ['another decision about it', { decided: '{"focus":{"x":0,"y":0}}' }],
    ['another value of the preset', { preset: { ...preset, file: { ...preset.file, quality: 79 } } }],
    ['another rung', { upTo: 'colour' }],
    ['marks instead of the picture', { overlay: 'halos' }],
    ['all of it, reduced', { view: { kind: 'whole', within: size } }],
    ['what the preset cuts away as well', { whole: true }],
  ])('is no picture of what is wanted: %s', (_, other) => {
    expect(match({ ...part(0.1), ...other }, part(0.1))).toBe('other');
  });

  it('is nothing before anything is there, or wanted', () => {
    expect(matchOf(null, askedFor(part(0)))).toBe('other');
    expect(matchOf(askedFor(part(0)), null)).toBe('other');
    expect(fileKey(part(0))).toBe(fileKey(part(0.9)));
  });
});
