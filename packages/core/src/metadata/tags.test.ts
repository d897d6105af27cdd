import { describe, expect, it } from 'vitest';
import { type MasterFacts, MasterFacts as MasterFactsSchema } from '../facts/facts';
import { soundFacts } from '../facts/sound-facts';
import { MetadataRung } from '../preset/schema';
import { StudioDetails } from './studio';
import { metadataDifferences } from './check';
import { metadataPlan } from './tags';

const whole = { whole: true };
const facts = {
  ...soundFacts,
  captured: '2025-12-31T23:59:00',
  title: 'Fog',
  caption: null,
  keywords: ['fog', 'boats'],
  rights: { creator: 'Orla Vessby', copyright: null, credit: null, terms: null, email: null, website: null, webStatement: null },
} satisfies MasterFacts;
const studio = StudioDetails.parse({ creator: 'Somebody else', copyrightHolder: 'Studio Lanternfold' });

describe('metadata', () => {
  it('fills what is missing with the year of capture, and leaves what is there', () => {
    const { set } = metadataPlan(MetadataRung.parse({}), facts, studio, whole);
    expect(set).toMatchObject({
      'EXIF:Artist': 'Orla Vessby',
      'XMP-dc:Rights': '© 2025 Studio Lanternfold',
      'IPTC:Keywords': ['fog', 'boats'],
    });
    const { set: unfilled } = metadataPlan(MetadataRung.parse({ fill: false }), facts, studio, whole);
    expect(unfilled).not.toHaveProperty(['XMP-dc:Rights']);
  });

  it('fills in the creator’s contact where the file has none, field by field, and not where it is not known what it has', () => {
    const address = StudioDetails.parse({ phone: '+00 1', city: 'Emberquay', jobTitle: 'Photographer', postalCode: '' });
    const none = { jobTitle: null, phone: null, address: null, city: null, region: null, postalCode: null, country: null };
    const filled = (contact: MasterFacts['contact'], rung: object = {}) =>
      metadataPlan(MetadataRung.parse(rung), { ...facts, contact }, address, whole).set;
    expect(filled(none)).toMatchObject({
      'XMP-iptcCore:CreatorWorkTelephone': '+00 1',
      'XMP-iptcCore:CreatorCity': 'Emberquay',
      'IPTC:By-lineTitle': 'Photographer',
      'XMP-photoshop:AuthorsPosition': 'Photographer',
    });
    expect(filled(none)).not.toHaveProperty(['XMP-iptcCore:CreatorPostalCode']);
    const own = { ...none, city: 'Farhaven' };
    expect(filled(own)).toMatchObject({ 'XMP-iptcCore:CreatorCity': 'Farhaven', 'XMP-iptcCore:CreatorWorkTelephone': '+00 1' });
    expect(filled(own, { fill: false })).toMatchObject({ 'XMP-iptcCore:CreatorCity': 'Farhaven' });
    // As releases before wrote facts down.
    expect(MasterFactsSchema.parse({ ...soundFacts, contact: undefined }).contact).toBeNull();
    expect(MasterFactsSchema.parse({ ...soundFacts, contact: ['city'] }).contact).toBeNull();
    expect(MasterFactsSchema.parse(soundFacts).contact).toEqual(none);
    for (const set of [filled(null), filled(none, { fill: false }), filled(none, { rights: 'remove' })])
      expect(Object.keys(set).join()).not.toMatch(/CreatorCity|Telephone|By-lineTitle/);
  });

  it('keeps a removed group out, also when everything else is kept', () => {
    const { set, copy, leave } = metadataPlan(MetadataRung.parse({ rights: 'remove', other: 'keep' }), facts, studio, whole);
    expect(Object.keys(set).join()).not.toMatch(/Artist|Rights/);
    expect(copy).not.toContain('GPS:all');
    expect(leave).toEqual(expect.arrayContaining(['GPS:all', 'XMP-exif:GPS*', 'EXIF:DateTimeOriginal', 'EXIF:Artist', 'Orientation']));
  });

  it('keeps maker notes and the thumbnail only where nothing in them is to be removed', () => {
    const notes = (rung: object, frame = whole, orientation = 1) => {
      const { makerNotes, thumbnail } = metadataPlan(MetadataRung.parse(rung), { ...facts, orientation }, studio, frame);
      return { makerNotes, thumbnail };
    };
    expect(notes({ other: 'keep', capture: 'keep', place: 'keep' })).toEqual({ makerNotes: 'keep', thumbnail: true });
    expect(notes({ other: 'keep', capture: 'keep', place: 'remove' })).toEqual({ makerNotes: 'placeless', thumbnail: true });
    expect(notes({ other: 'keep' })).toEqual({ makerNotes: 'drop', thumbnail: true });
    expect(notes({ other: 'remove', capture: 'keep', place: 'keep' })).toEqual({ makerNotes: 'drop', thumbnail: false });
    expect(notes({ other: 'keep' }, { whole: false }).thumbnail).toBe(false);
    expect(notes({ other: 'keep' }, whole, 6).thumbnail).toBe(false);
  });
});

describe('the check of metadata', () => {
  const rung = MetadataRung.parse({});
  const plan = metadataPlan(rung, facts, studio, whole);
  const sound = {
    'IFD0:Artist': 'Orla Vessby',
    'IPTC:By-line': 'Orla Vessby',
    'XMP-dc:Creator': 'Orla Vessby',
    'IFD0:Copyright': '© 2025 Studio Lanternfold',
    'IPTC:CopyrightNotice': '© 2025 Studio Lanternfold',
    'XMP-dc:Rights': '© 2025 Studio Lanternfold',
    'XMP-xmpRights:Marked': true,
    'IPTC:ObjectName': 'Fog',
    'XMP-dc:Title': 'Fog',
    'IPTC:Keywords': ['fog', 'boats'],
    'XMP-dc:Subject': ['fog', 'boats'],
    'ICC_Profile:DeviceModelDesc': 'Country',
    'File:Directory': '/GPS',
    'XMP-iptcCore:CreatorCity': 'Emberquay',
  };
  const differences = (more: object, iptc = true) => metadataDifferences(rung, plan, { ...sound, ...more }, { iptc });

  it('passes what says exactly what it should', () => {
    expect(differences({})).toEqual([]);
  });

  it.each([
    ['GPS:GPSLatitude', 40],
    ['XMP-exif:GPSLatitude', 40],
    ['IPTC:City', 'Emberquay'],
    ['XMP-iptcExt:LocationCreatedCity', 'Emberquay'],
    ['Panasonic:City', 'Emberquay'],
    ['ExifIFD:DateTimeOriginal', '2025:12:31 23:59:00'],
    ['XMP-aux:Lens', '24-70'],
    ['XMP-xmp:Rating', 4],
  ])('finds %s, which was to be removed', (field, value) => {
    expect(differences({ [field]: value })).toEqual([`it carries ${field}, which the preset removes`]);
  });

  it('finds what is missing or says something else, where the file type can say it', () => {
    expect(differences({ 'XMP-dc:Title': 'Mist' })).toEqual(['XMP-dc:Title is missing or differs']);
    expect(differences({ 'IPTC:ObjectName': undefined })).toHaveLength(1);
    expect(differences({ 'IPTC:ObjectName': undefined }, false)).toEqual([]);
  });
});
