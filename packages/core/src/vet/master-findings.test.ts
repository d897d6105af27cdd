import { describe, expect, it } from 'vitest';
import type { MasterFacts } from '../facts/facts';
import { soundFacts as sound } from '../facts/sound-facts';
import { sniffFormat } from '../types/table';
import { masterFindings } from './master-findings';

const codes = (more: Partial<MasterFacts>) =>
  masterFindings({ ...sound, ...more }, `a.${more.format === 'raw' ? 'dng' : 'jpg'}`).map(({ code }) => code);

describe('findings', () => {
  it('say nothing of a sound master', () => {
    expect(codes({})).toEqual([]);
  });

  it.each<[string, Partial<MasterFacts>]>([
    ['no-profile', { profile: null, sRgb: false }],
    ['not-srgb', { profile: 'ROMM RGB', sRgb: false }],
    ['cmyk', { colourModel: 'cmyk' }],
    ['deep', { bits: 16 }],
    ['alpha', { alpha: true }],
    ['embedded-picture', { format: 'raw' }],
    ['fractions', { fractions: true }],
    ['several-pages', { pages: 3 }],
    ['rights-missing', { rights: { ...sound.rights, creator: null } }],
    ['place-present', { gps: true }],
    ['turned-by-tag', { orientation: 6 }],
  ])('tell of %s, and of nothing else', (code, more) => {
    expect(codes(more)).toEqual([code]);
  });

  it('take a copyright notice for rights', () => {
    expect(codes({ rights: { ...sound.rights, creator: null, copyright: '© somebody' } })).toEqual([]);
  });
});

describe('first bytes', () => {
  const bytes = (text: string) => Uint8Array.from(text, (letter) => letter.charCodeAt(0));
  // ITU-T T.81, ISO/IEC 15948, TIFF 6.0, RFC 9649 (WebP), AV1 Image File Format 1.1
  it.each([
    ['jpeg', '\xff\xd8\xff\xe0\x00\x10JFIF\x00\x01'],
    ['png', '\x89PNG\r\n\x1a\n\x00\x00\x00\rIHDR'],
    ['tiff', 'II*\x00\x08\x00\x00\x00'],
    ['tiff', 'MM\x00*\x00\x00\x00\x08'],
    ['webp', 'RIFF\x24\x00\x00\x00WEBPVP8 '],
    ['avif', '\x00\x00\x00\x20ftypavif\x00\x00'],
    // ISO/IEC 23008-12, annex B: their own brand first, or that of all still pictures with their own behind it.
    ['heic', '\x00\x00\x00\x18ftypheic\x00\x00\x00\x00mif1heic'],
    ['heic', '\x00\x00\x00\x18ftypmif1\x00\x00\x00\x00mif1heix'],
    ['avif', '\x00\x00\x00\x1cftypmif1\x00\x00\x00\x00mif1avifmiaf'],
    ['jxl', '\xff\x0a\xfa\x1f'],
    ['psd', '8BPS\x00\x02\x00\x00'],
  ])('tell %s', (format, start) => {
    expect(sniffFormat(bytes(start))).toBe(format);
  });

  it.each([
    '',
    'GIF89a',
    '%PDF-1.7',
    '<svg xmlns="',
    '\x00\x00\x00\x20ftypmp42',
    '8BPS\x00\x03',
    'RIFF\x24\x00\x00\x00WAVEfmt ',
    '\xff\xd8',
  ])('refuse %j', (start) => {
    expect(sniffFormat(bytes(start))).toBeNull();
  });
});
