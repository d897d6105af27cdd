import { describe, expect, it } from 'vitest';
import type { MasterFacts } from '../facts/facts';
import { MetadataRung } from '../preset/schema';
import { StudioDetails } from './studio';
import { metadataPlan } from './tags';

const facts = {
  ...{ captured: '2025-12-31T23:59:00', title: 'Fog', caption: null, keywords: ['fog', 'boats'] },
  rights: { creator: 'Orla Vessby', copyright: null, credit: null, terms: null, email: null, website: null, webStatement: null },
} as MasterFacts;
const studio = StudioDetails.parse({ creator: 'Somebody else', copyrightHolder: 'Studio Lanternfold' });

describe('metadata', () => {
  it('fills what is missing with the year of capture, and leaves what is there', () => {
    const { set } = metadataPlan(MetadataRung.parse({}), facts, studio);
    expect(set).toMatchObject({
      'EXIF:Artist': 'Orla Vessby',
      'XMP-dc:Rights': '© 2025 Studio Lanternfold',
      'IPTC:Keywords': ['fog', 'boats'],
    });
    const { set: unfilled } = metadataPlan(MetadataRung.parse({ fill: false }), facts, studio);
    expect(unfilled).not.toHaveProperty(['XMP-dc:Rights']);
  });

  it('keeps a removed group out, also when everything else is kept', () => {
    const { set, copy, leave } = metadataPlan(MetadataRung.parse({ rights: 'remove', other: 'keep' }), facts, studio);
    expect(Object.keys(set).join()).not.toMatch(/Artist|Rights/);
    expect(copy).not.toContain('GPS:all');
    expect(leave).toEqual(expect.arrayContaining(['GPS:all', 'XMP-exif:GPS*', 'EXIF:DateTimeOriginal', 'EXIF:Artist', 'Orientation']));
  });
});
