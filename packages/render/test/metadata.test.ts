import { join } from 'node:path';
import { metadataPlan, masterFindings, Preset, StudioDetails } from '@rundle/core';
import sharp from 'sharp';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { endExifTool, exifTool } from '../src/read/exiftool';
import { readFacts } from '../src/read/facts';
import { readTags } from '../src/read/tags';
import { folder, outsideTags, preset, render, testPicture } from './pictures';

const dir = folder();
const master = join(dir, 'master.jpg');

beforeAll(async () => {
  await testPicture(900, 600).withIccProfile('p3').jpeg({ quality: 90 }).toFile(master);
  const tags = {
    'EXIF:Artist': 'Orla Vessby',
    'XMP-dc:Title': 'Lanterns – ünlit',
    'XMP-iptcCore:AltTextAccessibility': 'Lanterns over a quay in fog',
    'IPTC:Keywords': ['fog', 'boats'],
    'XMP-xmp:Rating': 4,

    'EXIF:DateTimeOriginal': '2026:06:20 21:40:00',
    'EXIF:OffsetTimeOriginal': '+02:00',
    'EXIF:Make': 'Quillon',
    'EXIF:Model': 'Quillon Q5',

    'EXIF:GPSLatitude': 40,
    'EXIF:GPSLatitudeRef': 'N',
    'EXIF:GPSLongitude': 30,
    'EXIF:GPSLongitudeRef': 'W',
    'IPTC:City': 'Emberquay',
    'XMP-photoshop:City': 'Emberquay',
    'XMP-exif:GPSLatitude': 40,
    'EXIF:Software': 'A fine editor',
    'EXIF:Orientation#': 1,
  };
  await exifTool().write(master, tags, { writeArgs: ['-overwrite_original'] });
});
afterAll(endExifTool);

// A JPEG that says nothing is not read for what it says: what is taken for one has to be one.
it.each([{}, { 'EXIF:Artist': 'Orla Vessby' }, { 'XMP-dc:Title': 'Fog' }, { 'IPTC:Keywords': ['fog'] }, { Comment: 'fog' }])(
  'facts hold all that a file says of itself: %j',
  async (tags) => {
    const path = join(dir, `says-${Object.keys(tags).join()}.jpg`);
    await testPicture(90, 60).withIccProfile('p3').jpeg({ progressive: true }).toFile(path);
    if (Object.keys(tags).length) await exifTool().write(path, tags, { writeArgs: ['-overwrite_original'] });
    expect(await readFacts(path)).toMatchObject(await readTags(path));
  },
);

const groupsOf = (path: string) => {
  const names = Object.keys(outsideTags(path)).join(' ');
  return {
    rights: /Artist|XMP-dc:Creator/.test(names),
    description: /XMP-dc:Title|IPTC:Keywords/.test(names),
    capture: /DateTimeOriginal|IFD0:Model/.test(names),
    place: /GPS|City/.test(names),
    rating: /Rating/.test(names),
    other: /Software/.test(names),
  };
};

describe('facts', () => {
  it('are read from EXIF, IPTC and XMP', async () => {
    const facts = await readFacts(master);
    expect(facts).toMatchObject({
      format: 'jpeg',
      width: 900,
      height: 600,
      bits: 8,
      sRgb: false,
      captured: '2026-06-20T21:40:00+02:00',
      rating: 4,

      title: 'Lanterns – ünlit',
      keywords: ['fog', 'boats'],
      alt: 'Lanterns over a quay in fog',
      gps: true,
      camera: 'Quillon Q5',
      rights: { creator: 'Orla Vessby', copyright: null },
    });
    expect(masterFindings(facts, 'lanterns.jpg').map(({ code }) => code)).toEqual(['already-small', 'place-present', 'not-srgb']);
  });
});

describe('the creator’s contact', () => {
  const studio = StudioDetails.parse({ phone: '+00 555', city: 'Emberquay', jobTitle: 'Photographer', country: 'Quillonia' });

  it('is filled in as an outside reader finds it, and what the file says of it stays', async () => {
    const own = join(dir, 'own-contact.jpg');
    await testPicture(300, 200).jpeg().toFile(own);
    const said = { 'XMP-iptcCore:CreatorCity': 'Farhaven', 'XMP-photoshop:AuthorsPosition': 'Skipper' };
    await exifTool().write(own, said, { writeArgs: ['-overwrite_original'] });
    expect((await readFacts(own)).contact).toMatchObject({ jobTitle: 'Skipper', city: 'Farhaven', phone: null });
    expect(Object.values((await readFacts(master)).contact ?? {}).every((value) => value === null)).toBe(true);
    for (const other of ['keep', 'remove'] as const) {
      const [result] = await render(own, join(dir, `contact ${other}`), [preset({ size: { px: 200 }, metadata: { other } })], studio);
      if (result?.status !== 'done') throw new Error(JSON.stringify(result));
      expect(outsideTags(result.path)).toMatchObject({
        'XMP-iptcCore:CreatorCity': 'Farhaven',
        'XMP-photoshop:AuthorsPosition': 'Skipper',
        'XMP-iptcCore:CreatorCountry': 'Quillonia',
      });
      expect(String(outsideTags(result.path)['XMP-iptcCore:CreatorWorkTelephone'])).toContain('555');
    }
  });
});

describe('the six groups', () => {
  const only = (group: string) =>
    Object.fromEntries(
      ['rights', 'description', 'capture', 'place', 'rating', 'other'].map((name) => [name, name === group ? 'keep' : 'remove']),
    );

  it.each(['rights', 'description', 'capture', 'place', 'rating', 'other'] as const)(
    '%s alone is kept, and nothing of the others',
    async (group) => {
      const [output] = await render(master, join(dir, group), [preset({ size: { px: 300 }, metadata: only(group) })]);
      if (output?.status !== 'done') throw new Error(JSON.stringify(output));
      expect(groupsOf(output.path)).toEqual(
        Object.fromEntries(['rights', 'description', 'capture', 'place', 'rating', 'other'].map((name) => [name, name === group])),
      );
    },
  );

  it('everything but the place leaves no trace of it anywhere', async () => {
    const all = { rights: 'keep', description: 'keep', capture: 'keep', place: 'remove', rating: 'keep', other: 'keep' } as const;
    const [output] = await render(master, join(dir, 'all'), [preset({ size: { px: 300 }, metadata: all })]);
    if (output?.status !== 'done') throw new Error(JSON.stringify(output));
    expect(groupsOf(output.path)).toEqual({ rights: true, description: true, capture: true, place: false, rating: true, other: true });
    expect(JSON.stringify(outsideTags(output.path))).not.toContain('Emberquay');
    expect(outsideTags(output.path)).toMatchObject({ 'ExifIFD:OffsetTimeOriginal': '+02:00', 'ICC_Profile:ProfileDescription': 'sRGB' });
    expect((await sharp(output.path).metadata()).orientation ?? 1).toBe(1);
  });

  it('thumbnails follow "everything else", unless they say where or show another frame', async () => {
    const all = { rights: 'keep', description: 'keep', capture: 'keep', place: 'remove', rating: 'keep', other: 'keep' } as const;
    const small = join(dir, 'small.jpg');
    await testPicture(160, 107).jpeg().toFile(small);
    const withThumbnail = async (name: string, thumbnail: string) => {
      const path = join(dir, name);
      await testPicture(900, 600).withIccProfile('srgb').jpeg().toFile(path);
      await exifTool().write(
        path,
        { 'EXIF:Artist': 'Orla Vessby' },
        {
          writeArgs: ['-overwrite_original', `-ThumbnailImage<=${thumbnail}`],
        },
      );
      return path;
    };
    const thumbnailOf = async (path: string, size: object) => {
      const [output] = await render(path, join(dir, `thumbs ${Math.random()}`), [preset({ size, metadata: all })]);
      if (output?.status !== 'done') throw new Error(JSON.stringify(output));
      return outsideTags(output.path)['IFD1:ThumbnailLength'];
    };
    const plain = await withThumbnail('plain thumbnail.jpg', small);
    expect(await thumbnailOf(plain, { px: 300 })).toBeGreaterThan(100);
    expect(await thumbnailOf(plain, { fit: 'cover', width: 200, height: 200 })).toBeUndefined();
    const telling = join(dir, 'telling.jpg');
    await testPicture(160, 107).jpeg().toFile(telling);
    await exifTool().write(telling, { GPSLatitude: 40, GPSLatitudeRef: 'N' }, { writeArgs: ['-overwrite_original'] });
    expect(await thumbnailOf(await withThumbnail('telling thumbnail.jpg', telling), { px: 300 })).toBeUndefined();
  });

  it('nothing at all means nothing at all', async () => {
    const none = {
      rights: 'remove',
      description: 'remove',
      capture: 'remove',
      place: 'remove',
      rating: 'remove',
      other: 'remove',
    } as const;
    const [output] = await render(master, join(dir, 'none'), [preset({ size: { px: 300 }, metadata: none })]);
    if (output?.status !== 'done') throw new Error(JSON.stringify(output));
    const left = Object.keys(outsideTags(output.path)).filter((tag) => /^(?:IFD0|ExifIFD|IPTC|XMP|GPS)/.test(tag));
    expect(left.filter((tag) => !/Resolution|YCbCrPositioning/.test(tag))).toEqual([]); // the resolution was asked for
    expect(
      metadataPlan(Preset.shape.metadata.parse(none), await readFacts(master), StudioDetails.parse({ creator: 'X' }), { whole: true }).set,
    ).toEqual({});
  });

  it('the resolution tag is the master’s when the preset names none, and missing where the master has none', async () => {
    await exifTool().write(
      master,
      { 'IFD0:XResolution#': 240, 'IFD0:YResolution#': 240 },
      {
        writeArgs: ['-overwrite_original'],
      },
    );
    const plain = join(dir, 'plain.png');
    await testPicture(400, 300).png().toFile(plain);
    const metadata = { rights: 'remove', description: 'remove' } as const;
    for (const [path, ppi] of [
      [master, 240],
      [plain, undefined],
    ] as const) {
      const [output] = await render(path, join(dir, `ppi ${ppi}`), [preset({ size: { px: 300, ppi: null }, metadata })]);
      if (output?.status !== 'done') throw new Error(JSON.stringify(output));
      expect(outsideTags(output.path)['IFD0:XResolution']).toBe(ppi);
    }
  });
});
