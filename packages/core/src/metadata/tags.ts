import type { MasterFacts, Rights } from '../facts/facts';
import { METADATA_GROUPS, type MetadataGroup, type MetadataRung } from '../preset/schema';
import { fillRights, type StudioDetails } from './studio';

/*
 * Which metadata an output carries. Names are those of ExifTool's tag tables, `Group:Tag`; which field of EXIF 2.32,
 * IPTC-IIM 4.2 and XMP says the same thing follows the IPTC Photo Metadata Standard 2023.1 and the Metadata Working
 * Group's guidelines 2.0, section 5.
 */

/** What is written into an output that so far carries nothing. */
export interface MetadataPlan {
  /** Fields to write, by their value. */
  set: Record<string, string | string[]>;
  /** Fields to copy from the master as they are. */
  copy: string[];
  /** Fields to leave aside while copying. */
  leave: string[];
}

const SAME_FIELD: Record<keyof Rights | 'title' | 'caption' | 'keywords', readonly string[]> = {
  creator: ['EXIF:Artist', 'IPTC:By-line', 'XMP-dc:Creator'],
  copyright: ['EXIF:Copyright', 'IPTC:CopyrightNotice', 'XMP-dc:Rights'],
  credit: ['IPTC:Credit', 'XMP-photoshop:Credit'],
  terms: ['XMP-xmpRights:UsageTerms'],
  email: ['XMP-iptcCore:CreatorWorkEmail'],
  website: ['XMP-iptcCore:CreatorWorkURL'],
  webStatement: ['XMP-xmpRights:WebStatement'],
  title: ['IPTC:ObjectName', 'XMP-dc:Title'],
  caption: ['EXIF:ImageDescription', 'IPTC:Caption-Abstract', 'XMP-dc:Description'],
  keywords: ['IPTC:Keywords', 'XMP-dc:Subject'],
};

/** Fields of each group besides those that are written by value. */
const COPIED: Record<Exclude<MetadataGroup, 'other'>, readonly string[]> = {
  rights: [],
  description: ['IPTC:Headline', 'XMP-photoshop:Headline', 'IPTC:Writer-Editor', 'XMP-photoshop:CaptionWriter'],
  capture: [
    ...['DateTimeOriginal', 'CreateDate', 'OffsetTime*', 'SubSecTime*', 'Make', 'Model', 'Lens*', 'ExposureTime', 'FNumber'],
    ...['ISO', 'PhotographicSensitivity', 'FocalLength*', 'Exposure*', 'MeteringMode', 'Flash', 'WhiteBalance', 'LightSource'],
  ]
    .map((tag) => `EXIF:${tag}`)
    .concat(['IPTC:DateCreated', 'IPTC:TimeCreated', 'XMP-photoshop:DateCreated', 'XMP-xmp:CreateDate', 'XMP-aux:Lens*']),
  place: [
    ...['GPS:all', 'XMP-exif:GPS*', 'IPTC:City', 'IPTC:Sub-location', 'IPTC:Province-State', 'IPTC:Country-Primary*'],
    ...['XMP-photoshop:City', 'XMP-photoshop:State', 'XMP-photoshop:Country', 'XMP-iptcCore:Location', 'XMP-iptcCore:CountryCode'],
    ...['XMP-iptcExt:LocationShown', 'XMP-iptcExt:LocationCreated'],
  ],
  rating: ['XMP-xmp:Rating', 'XMP-xmp:Label', 'EXIF:Rating', 'EXIF:RatingPercent'],
};

/** Never copied: true of the master's pixels, not of the output's. */
const OF_THE_PIXELS = ['Orientation', 'ImageWidth', 'ImageHeight', 'ExifImageWidth', 'ExifImageHeight', 'ColorSpace', 'ICC_Profile:all']
  .concat(['XResolution', 'YResolution', 'ResolutionUnit', 'ThumbnailImage', 'IFD1:all', 'XMP-tiff:all', 'XMP-exif:PixelXDimension'])
  .concat([
    'XMP-exif:PixelYDimension',
    'XMP-exif:ColorSpace',
    'JFIF:all',
    'Adobe:all',
    'XMP-xmpMM:all',
    'EXIF:YCbCr*',
    'EXIF:StripOffsets',
  ]);

/**
 * Decides what metadata an output carries.
 * @param rung the Metadata rung of the preset
 * @param facts the master's facts
 * @param studio what fills missing rights fields, when the rung says so
 */
export function metadataPlan(rung: MetadataRung, facts: MasterFacts, studio: StudioDetails): MetadataPlan {
  const set: MetadataPlan['set'] = {};
  const write = (field: keyof typeof SAME_FIELD, value: string | string[] | null) => {
    if (value?.length) for (const tag of SAME_FIELD[field]) set[tag] = value;
  };
  if (rung.rights === 'keep') {
    const rights = rung.fill ? fillRights(facts, studio) : facts.rights;
    for (const field of Object.keys(rights) as (keyof Rights)[]) write(field, rights[field]);
    if (rights.copyright) set['XMP-xmpRights:Marked'] = 'True';
  }
  if (rung.description === 'keep') {
    write('title', facts.title);
    write('caption', facts.caption);
    write('keywords', facts.keywords);
  }
  return { set, ...copied(rung) };
}

function copied(rung: MetadataRung): Pick<MetadataPlan, 'copy' | 'leave'> {
  const groups = METADATA_GROUPS.filter((group) => group !== 'other');
  const tagsOf = (policy: 'keep' | 'remove') => groups.filter((group) => rung[group] === policy).flatMap((group) => COPIED[group]);
  if (rung.other === 'remove') return { copy: tagsOf('keep'), leave: [] };
  // Everything else can only be told by leaving out what is known; values of rights and description are written, not copied.
  return {
    copy: ['EXIF:all', 'IPTC:all', 'XMP:all', ...(rung.place === 'keep' ? ['GPS:all'] : []), 'MakerNotes'],
    leave: [...OF_THE_PIXELS, ...tagsOf('remove'), ...Object.values(SAME_FIELD).flat()],
  };
}
