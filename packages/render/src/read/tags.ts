import { CONTACT_NAMES, copiedFields, isField, type MasterFacts, METADATA_GROUPS } from '@rundle/core';
import { exifTool } from './exiftool';

type TagFacts = Pick<
  MasterFacts,
  | 'captured'
  | 'rating'
  | 'keywords'
  | 'title'
  | 'caption'
  | 'alt'
  | 'rights'
  | 'gps'
  | 'camera'
  | 'lens'
  | 'exifSpace'
  | 'carries'
  | 'contact'
  | 'metadataUnread'
>;

/** Where each fact stands, best source first: XMP, then IPTC-IIM, then EXIF (Metadata Working Group 2.0, section 5). */
const SOURCES = {
  creator: ['XMP-dc:Creator', 'IPTC:By-line', 'IFD0:Artist'],
  copyright: ['XMP-dc:Rights', 'IPTC:CopyrightNotice', 'IFD0:Copyright'],
  credit: ['XMP-photoshop:Credit', 'IPTC:Credit'],
  terms: ['XMP-xmpRights:UsageTerms'],
  email: ['XMP-iptcCore:CreatorWorkEmail'],
  website: ['XMP-iptcCore:CreatorWorkURL'],
  webStatement: ['XMP-xmpRights:WebStatement'],
  jobTitle: ['XMP-photoshop:AuthorsPosition', 'IPTC:By-lineTitle'],
  phone: ['XMP-iptcCore:CreatorWorkTelephone'],
  address: ['XMP-iptcCore:CreatorAddress'],
  city: ['XMP-iptcCore:CreatorCity'],
  region: ['XMP-iptcCore:CreatorRegion'],
  postalCode: ['XMP-iptcCore:CreatorPostalCode'],
  country: ['XMP-iptcCore:CreatorCountry'],
  title: ['XMP-dc:Title', 'IPTC:ObjectName'],
  caption: ['XMP-dc:Description', 'IPTC:Caption-Abstract', 'IFD0:ImageDescription'],
  alt: ['XMP-iptcCore:AltTextAccessibility'],
  keywords: ['XMP-dc:Subject', 'IPTC:Keywords'],
  captured: ['ExifIFD:DateTimeOriginal', 'XMP-exif:DateTimeOriginal', 'XMP-photoshop:DateCreated', 'ExifIFD:CreateDate'],
  offset: ['ExifIFD:OffsetTimeOriginal', 'ExifIFD:OffsetTime'],
  rating: ['XMP-xmp:Rating', 'IFD0:Rating'],
  latitude: ['GPS:GPSLatitude', 'XMP-exif:GPSLatitude'],
  make: ['IFD0:Make'],
  model: ['IFD0:Model'],
  colourSpace: ['ExifIFD:ColorSpace'],
  interoperability: ['InteropIFD:InteropIndex'],
  lens: ['ExifIFD:LensModel', 'XMP-aux:Lens'],
} as const;

const GROUPS = METADATA_GROUPS.filter((group) => group !== 'other');

const ARGUMENTS = [
  '-e', // without what ExifTool works out from other tags
  '-fast2', // without maker notes and what stands behind the picture
  '-G1',
  '-n',
  '-EXIF:all',
  '-IPTC:all',
  '-XMP:all', // whole groups: a long list of single tags takes half as long again
];

/**
 * Reads the descriptive metadata of a file. When they cannot be read at all, that is told: nothing may be concluded then from what is
 * missing.
 */
export async function readTags(path: string): Promise<TagFacts> {
  const read = await exifTool()
    .readRaw(path, { readArgs: ARGUMENTS })
    .catch(() => null);
  return tagFacts(read);
}

/** What tags mean. @param read by their names, as ExifTool tells them with {@link ARGUMENTS}; null: they could not be read */
export function tagFacts(read: Readonly<Record<string, unknown>> | null): TagFacts {
  const metadataUnread = read === null || 'ExifTool:Error' in read;
  const tags = read ?? {};
  const raw = (fact: keyof typeof SOURCES): unknown => {
    const source = SOURCES[fact].find((key) => tags[key] !== undefined && tags[key] !== '');
    return source && tags[source];
  };
  const list = (value: unknown): string[] =>
    value === undefined
      ? []
      : [value]
          .flat()
          .slice(0, MOST_VALUES)
          .map((one) => (typeof one === 'string' ? one : JSON.stringify(one)).replace(NO_TEXT, ''));
  const text = (fact: keyof typeof SOURCES): string | null => {
    const value = raw(fact);
    const joined = list(value).join(', ');
    return joined.trim() || null;
  };
  const found = Object.keys(tags);
  return {
    metadataUnread,
    carries: GROUPS.filter((group) => found.some((key) => copiedFields(group).some((field) => isField(field, key)))),
    contact: Object.fromEntries(CONTACT_NAMES.map((name) => [name, text(name)])) as MasterFacts['contact'],
    captured: captureTime(text('captured'), text('offset')),
    rating: starsOf(raw('rating')),
    keywords: list(raw('keywords')),
    title: text('title'),
    caption: text('caption'),
    alt: text('alt'),
    rights: {
      creator: text('creator'),
      copyright: text('copyright'),
      credit: text('credit'),
      terms: text('terms'),
      email: text('email'),
      website: text('website'),
      webStatement: text('webStatement'),
    },
    gps: raw('latitude') !== undefined,
    camera: cameraName(text('make'), text('model')),
    lens: text('lens'),
    exifSpace: exifSpace(Number(raw('colourSpace')), text('interoperability')),
  };
}

/** Values of one field that are read; a hundred thousand keywords are a mistake, or meant to harm. */
const MOST_VALUES = 10_000;
/** What no database holds as text: NUL, and halves of characters. */
const NO_TEXT = /\0|\p{Surrogate}/gu;

/** From EXIF's `2026:06:20 21:14:03` to ISO 8601, the clock as the camera showed it, its offset behind where known. */
function captureTime(time: string | null, offset: string | null): string | null {
  const parts = /^(\d{4})[:-](\d\d)[:-](\d\d)[T ](\d\d:\d\d(?::\d\d)?)(?:\.\d+)?(Z|[+-]\d\d:\d\d)?/.exec(time ?? '');
  if (!parts || parts[1] === '0000') return null;
  const [, year, month, day, clock = '', own] = parts;
  return `${year}-${month}-${day}T${clock.length === 5 ? `${clock}:00` : clock}${own ?? offset ?? ''}`;
}

/** -1 stands for "rejected" in XMP; it and everything else out of range is no rating. */
function starsOf(value: unknown): number | null {
  const stars = Number(value);
  return value !== undefined && Number.isInteger(stars) && stars >= 0 && stars <= 5 ? stars : null;
}

/**
 * The colour space that EXIF names. EXIF 2.32, 4.6.5: 1 is sRGB, 65,535 uncalibrated; DCF 2.0, 5.2: R03 then stands for its
 * optional space, which is Adobe RGB (1998). 2 for the same is written by some cameras (common practice, no source).
 */
function exifSpace(colourSpace: number, interoperability: string | null): MasterFacts['exifSpace'] {
  if (colourSpace === 1) return 'srgb';
  return colourSpace === 2 || (colourSpace === 65_535 && interoperability?.startsWith('R03')) ? 'adobe-rgb' : null;
}

function cameraName(make: string | null, model: string | null): string | null {
  if (!make || !model || model.toLowerCase().startsWith(make.toLowerCase())) return model ?? make;
  return `${make} ${model}`;
}
