import type { MasterFacts, Rights } from '../facts/facts';
import { METADATA_GROUPS, type MetadataGroup, type MetadataRung } from '../preset/schema';
import { CONTACT_FIELDS, CONTACT_NAMES, copiedFields, fieldsOf, SAME_FIELD } from './groups';
import { fillContact, fillRights, type StudioDetails } from './studio';

/** What is written into an output that so far carries nothing. Names of fields are those of groups.ts. */
export interface MetadataPlan {
  /** Fields to write, by their value. */
  set: Record<string, string | string[]>;
  /** Fields to copy from the master as they are. */
  copy: string[];
  /** Fields to leave aside while copying. */
  leave: string[];
  /** What becomes of the camera's maker notes: `placeless`: kept if nothing in them can say where. */
  makerNotes: 'keep' | 'placeless' | 'drop';
  /** Whether the small picture inside the master's EXIF comes along. */
  thumbnail: boolean;
}

/** Never copied: true of the master's pixels or of its file, not of the output's. */
const OF_THE_PIXELS = [
  'Orientation',
  'ImageWidth',
  'ImageHeight',
  'ExifImageWidth',
  'ExifImageHeight',
  'ColorSpace',
  'InteropIFD:all',
  'ICC_Profile:all',
  'XResolution',
  'YResolution',
  'ResolutionUnit',
  'XMP-tiff:all',
  'XMP-exif:PixelXDimension',
  'XMP-exif:PixelYDimension',
  'XMP-exif:ColorSpace',
  'XMP-photoshop:ICCProfile',
  'JFIF:all',
  'Adobe:all',
  'XMP-xmpMM:all',
  'XMP-xmp:Thumbnails',
  'EXIF:YCbCr*',
  'EXIF:StripOffsets',
  'EXIF:BitsPerSample',
  'EXIF:Compression',
  'EXIF:PhotometricInterpretation',
  'EXIF:SamplesPerPixel',
  'EXIF:PlanarConfiguration',
  'EXIF:Predictor',
  'EXIF:SubIFD',
  'SubIFD:all',
  'PreviewImage',
];

/** The output's frame as far as metadata follow it. */
export interface Frame {
  /** Whether the output shows the whole master: a crop makes the master's thumbnail untrue. */
  whole: boolean;
}

/**
 * Decides what metadata an output carries.
 * @param rung the Metadata rung of the preset
 * @param facts the master's facts
 * @param studio what fills missing rights fields, when the rung says so
 */
export function metadataPlan(rung: MetadataRung, facts: MasterFacts, studio: StudioDetails, { whole }: Frame): MetadataPlan {
  const set: MetadataPlan['set'] = {};
  const write = (field: keyof typeof SAME_FIELD, value: string | string[] | null) => {
    if (value?.length) for (const tag of SAME_FIELD[field]) set[tag] = value;
  };
  if (rung.rights === 'keep') {
    const rights = rung.fill ? fillRights(facts, studio) : facts.rights;
    for (const field of Object.keys(rights) as (keyof Rights)[]) write(field, rights[field]);
    if (rights.copyright) set['XMP-xmpRights:Marked'] = 'True';
    // Its own, too, by their values: they are parts of one structure in XMP, of which what is copied is lost where something is written.
    const own = CONTACT_NAMES.map((field) => [field, facts.contact?.[field] ?? ''] as const);
    for (const [field, value] of [...own, ...(rung.fill ? fillContact(facts, studio) : [])])
      if (value) for (const tag of CONTACT_FIELDS[field]) set[tag] = value;
  }
  if (rung.description === 'keep') {
    write('title', facts.title);
    write('caption', facts.caption);
    write('keywords', facts.keywords);
  }
  const notes = rung.other === 'keep' && rung.capture === 'keep';
  return {
    set,
    ...copied(rung, facts.carries),
    makerNotes: !notes ? 'drop' : rung.place === 'keep' ? 'keep' : 'placeless',
    // A thumbnail lies as the camera held it; in an upright file it would lie on its side.
    thumbnail: rung.other === 'keep' && whole && facts.orientation === 1,
  };
}

function copied(rung: MetadataRung, carries: MasterFacts['carries']): Pick<MetadataPlan, 'copy' | 'leave'> {
  const groups = METADATA_GROUPS.filter((group): group is Exclude<MetadataGroup, 'other'> => group !== 'other');
  const removed = groups.filter((group) => rung[group] === 'remove').flatMap(fieldsOf);
  const written = Object.values(SAME_FIELD).flat();
  // Lists of fields do not overlap, so that nothing has to be left aside.
  if (rung.other === 'remove') return { copy: carries.filter((group) => rung[group] === 'keep').flatMap(copiedFields), leave: [] };
  // Everything else can only be told by leaving out what is known.
  return {
    copy: ['EXIF:all', 'IPTC:all', 'XMP:all', ...(rung.place === 'keep' ? ['GPS:all'] : [])],
    leave: [...OF_THE_PIXELS, ...removed, ...written],
  };
}
