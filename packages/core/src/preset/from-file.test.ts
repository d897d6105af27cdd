import { describe, expect, it } from 'vitest';
import { type FinishedFile, guessInWords, presetFrom } from './from-file';

const file = (more: Partial<FinishedFile> = {}): FinishedFile => ({
  fileName: 'lanterns-014.jpg',
  type: 'jpeg',
  width: 2048,
  height: 1365,
  bits: 8,
  quality: { value: 82, exact: true },
  chroma: '4:4:4',
  progressive: false,
  space: 'srgb',
  profile: 'sRGB',
  ppi: 72,
  carries: ['rights', 'description'],
  border: null,
  ...more,
});
const sureOf = (more: Partial<FinishedFile>, field: string) => presetFrom(file(more)).values.find((one) => one.field === field)?.sure;

describe('a preset from a finished file', () => {
  it('has what stands in the file, and says how sure each value is', () => {
    const { preset, values } = presetFrom(file());
    expect(preset).toMatchObject({
      title: 'Like lanterns-014, 2048 px',
      size: { fit: 'long-edge', px: 2048, ppi: 72 },
      colour: { space: 'srgb', embed: true },
      border: null,
      file: { type: 'jpeg', quality: 82, chroma: '4:4:4', progressive: false },
      metadata: { rights: 'keep', description: 'keep', capture: 'remove', place: 'remove', rating: 'remove' },
      name: {
        parts: [
          { part: 'text', text: 'lanterns' },
          { part: 'text', text: '-' },
          { part: 'counter', digits: 3 },
        ],
      },
    });
    const by = (sure: string) => values.flatMap((one) => (one.sure === sure ? [one.field] : []));
    expect(by('seen')).toEqual(
      expect.arrayContaining([
        'file.type',
        'file.quality',
        'file.chroma',
        'file.progressive',
        'colour.space',
        'size.ppi',
        'metadata.rights',
      ]),
    );
    expect(by('likely')).toEqual(['size.px', 'metadata.capture', 'metadata.place', 'metadata.rating', 'name.parts']);
    expect(by('not seen')).toEqual(['sharpen.amount']);
    expect(values.map(({ field }) => guessInWords(preset, field))).toEqual(
      expect.arrayContaining([
        { label: 'Quality', says: '82' },
        { label: 'Place', says: 'removed' },
        { label: 'Sharpening', says: '0.7' },
      ]),
    );
    expect(values.every(({ why }) => why.endsWith('.'))).toBe(true);
  });

  it('measures within a border, and has it', () => {
    const framed = presetFrom(file({ width: 2128, height: 1445, border: { px: 40, colour: '#ffffff' } }));
    expect(framed.preset).toMatchObject({ size: { px: 2048 }, border: { px: 40, colour: '#ffffff' } });
  });

  it.each<[string, Partial<FinishedFile>, string, string, unknown]>([
    ['an odd size', { width: 1733, height: 1155 }, 'size.px', 'not seen', 1733],
    ['tables of its own', { quality: { value: 91, exact: false } }, 'file.quality', 'likely', 91],
    ['a WebP', { type: 'webp', quality: null }, 'file.quality', 'not seen', 80],
    ['a type that is not written', { type: 'heic', quality: null }, 'file.type', 'not seen', 'jpeg'],
    ['no profile', { space: null, profile: null }, 'colour.embed', 'seen', false],
    ['another profile', { space: 'other', profile: 'Farhaven' }, 'colour.space', 'not seen', 'srgb'],
    ['16 bits', { type: 'tiff', quality: null, bits: 16 }, 'file.bits', 'seen', 16],
  ])('of %s', (_, more, field, sure, value) => {
    expect(sureOf(more, field)).toBe(sure);
    const [rung = '', name = ''] = field.split('.');
    expect((presetFrom(file(more)).preset as unknown as Record<string, Record<string, unknown>>)[rung]![name]).toBe(value);
  });

  it.each([
    ['LFS_0412.jpg', ['original']],
    ['quay_2048.jpg', ['original', 'text', 'long-edge']],
    ['Lanterns 07.jpg', ['text', 'text', 'counter']],
    ['harbour.jpg', ['original']],
    ['20260614.jpg', ['original']],
  ])('%s is named by its parts', (fileName, parts) => {
    expect(presetFrom(file({ fileName })).preset.name.parts.map(({ part }) => part)).toEqual(parts);
  });
});
