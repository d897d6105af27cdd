import type { Rights } from '../facts/facts';
import type { MetadataGroup } from '../preset/schema';

/*
 * Which field belongs to which group. Names are those of ExifTool's tag tables, `Group:Tag`, where `*` stands for any
 * letters and `all` for every field of the group. Which fields of EXIF 2.32, IPTC-IIM 4.2 and XMP say the same thing
 * follows the IPTC Photo Metadata Standard 2023.1 and the Metadata Working Group's guidelines 2.0, section 5.
 */

/** Fields that are written by value, the same in each standard. */
export const SAME_FIELD: Record<keyof Rights | 'title' | 'caption' | 'keywords', readonly string[]> = {
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

/** How to reach the creator, beside e-mail and web address: filled in where a file has none, otherwise copied as they are. */
export const CONTACT_FIELDS = {
  jobTitle: ['IPTC:By-lineTitle', 'XMP-photoshop:AuthorsPosition'],
  phone: ['XMP-iptcCore:CreatorWorkTelephone'],
  address: ['XMP-iptcCore:CreatorAddress'],
  city: ['XMP-iptcCore:CreatorCity'],
  region: ['XMP-iptcCore:CreatorRegion'],
  postalCode: ['XMP-iptcCore:CreatorPostalCode'],
  country: ['XMP-iptcCore:CreatorCountry'],
} as const;
export type ContactField = keyof typeof CONTACT_FIELDS;
export const CONTACT_NAMES = Object.keys(CONTACT_FIELDS) as [ContactField, ...ContactField[]];

const under = (group: string, tags: readonly string[]): string[] => tags.map((tag) => `${group}:${tag}`);

/** How a picture was taken, under the names that EXIF and XMP share. */
const EXPOSURE = [
  'DateTimeOriginal',
  'CreateDate',
  'DateTimeDigitized',
  'OffsetTime*',
  'SubSecTime*',
  'Exposure*',
  'FNumber',
  'ISO*',
  'PhotographicSensitivity',
  'SensitivityType',
  'StandardOutputSensitivity',
  'RecommendedExposureIndex',
  'ShutterSpeedValue',
  'ApertureValue',
  'BrightnessValue',
  'MaxApertureValue',
  'SubjectDistance*',
  'MeteringMode',
  'LightSource',
  'Flash*',
  'FocalLength*',
  'FocalPlane*',
  'SensingMethod',
  'SceneType',
  'SceneCaptureType',
  'CustomRendered',
  'WhiteBalance',
  'DigitalZoomRatio',
  'GainControl',
  'Contrast',
  'Saturation',
  'Sharpness',
];

/** Fields of each group besides those that are written by value. Everything not named here is the group `other`. */
const MORE: Record<Exclude<MetadataGroup, 'other'>, readonly string[]> = {
  rights: ['XMP-xmpRights:Owner', 'XMP-plus:all', 'IPTC:Source', 'XMP-photoshop:Source', ...Object.values(CONTACT_FIELDS).flat()],
  description: ['IPTC:Headline', 'XMP-photoshop:Headline', 'IPTC:Writer-Editor', 'XMP-photoshop:CaptionWriter', 'XMP-iptcCore:AltText*'],
  capture: [
    ...under('EXIF', [...EXPOSURE, 'Make', 'Model', 'Lens*', 'SerialNumber', 'BodySerialNumber', 'CameraOwnerName']),
    ...under('XMP-exif', EXPOSURE),
    'XMP-exifEX:all',
    'XMP-aux:all',
    'XMP-tiff:Make',
    'XMP-tiff:Model',
    'XMP-xmp:CreateDate',
    'XMP-photoshop:DateCreated',
    'IPTC:DateCreated',
    'IPTC:TimeCreated',
    'IPTC:DigitalCreation*',
  ],
  place: [
    'GPS:all',
    'EXIF:GPS*',
    'XMP-exif:GPS*',
    'IPTC:City',
    'IPTC:Sub-location',
    'IPTC:Province-State',
    'IPTC:Country-Primary*',
    'IPTC:ContentLocation*',
    'XMP-photoshop:City',
    'XMP-photoshop:State',
    'XMP-photoshop:Country',
    'XMP-iptcCore:Location',

    'XMP-iptcCore:CountryCode',
    'XMP-iptcExt:Location*',
    'XMP-dc:Coverage',
    'XMP-lr:*Location*',
    'XMP-GSpherical:all',
    'XMP-drone*:GPS*',
  ],
  rating: ['XMP-xmp:Rating', 'XMP-xmp:Label', 'EXIF:Rating', 'EXIF:RatingPercent', 'XMP-microsoft:RatingPercent', 'IPTC:Urgency'].concat([
    'XMP-photoshop:Urgency',
  ]),
};

const VALUES: Record<'rights' | 'description', readonly (keyof typeof SAME_FIELD)[]> = {
  rights: ['creator', 'copyright', 'credit', 'terms', 'email', 'website', 'webStatement'],
  description: ['title', 'caption', 'keywords'],
};

/** What is copied for a group that is kept. */
export const copiedFields = (group: Exclude<MetadataGroup, 'other'>): readonly string[] => MORE[group];

/** Everything that belongs to a group, copied or written. */
export function fieldsOf(group: Exclude<MetadataGroup, 'other'>): readonly string[] {
  const written = group === 'rights' || group === 'description' ? VALUES[group].flatMap((field) => SAME_FIELD[field]) : [];
  return [...written, ...MORE[group], ...(group === 'rights' ? ['XMP-xmpRights:Marked'] : [])];
}

/** How fields that say where are called, also where no list names them, as inside maker notes. */
const WHERE = /GPS|Latitude|Longitude|(?:^|:)(?:City|Country|State|Province|Location|Landmark|Sub-location)/i;

/** Places of the creator's address are rights, and a profile's or a lens's words are no place of the picture. */
const NOT_WHERE = /^(?:XMP-iptcCore:Creator|ICC_Profile|File|System|Composite|ExifTool|JFIF|PNG)/;

/**
 * Whether a field as read says where the picture was made: one of the group `place`, or one that is called so.
 * @param read `Group:Tag`, the group being the most exact one
 */
export const saysWhere = (read: string): boolean =>
  (WHERE.test(read) && !NOT_WHERE.test(read)) || MORE.place.some((field) => isField(field, read));

/** Directories of EXIF, as a reader that tells them apart names them. */
const EXIF_DIRECTORIES = '(?:EXIF|IFD0|ExifIFD|GPS|InteropIFD)';

/**
 * Whether a field as read, such as `ExifIFD:FNumber`, is one of a field as written down here.
 * @param read `Group:Tag`, the group being the most exact one
 */
export function isField(field: string, read: string): boolean {
  let pattern = patterns.get(field);
  if (!pattern) patterns.set(field, (pattern = patternOf(field)));
  return pattern.test(read);
}

const patterns = new Map<string, RegExp>();

function patternOf(field: string): RegExp {
  const [group = '', tag = ''] = field.split(':');
  const letters = (text: string) => text.replaceAll('*', '.*');
  const directory = group === 'EXIF' ? EXIF_DIRECTORIES : letters(group);
  return new RegExp(`^${directory}:${tag === 'all' ? '.*' : letters(tag)}$`);
}
