import * as z from 'zod';
import { MASTER_FORMATS } from '../types/table';
import { GamutLoss } from '../colour/gamut';
import { CONTACT_NAMES } from '../metadata/groups';
import { Weighing } from '../plan/weighing';
import { Salience } from '../size/proposal';
import { Finding } from '../vet/finding';

/** Who made the picture and how it may be used: the rights group, consistent in EXIF, IPTC-IIM and XMP. */
export const Rights = z.object({
  creator: z.string().nullable(),
  copyright: z.string().nullable(),
  credit: z.string().nullable(),
  terms: z.string().nullable(),
  email: z.string().nullable(),
  website: z.string().nullable(),
  webStatement: z.string().nullable(),
});
export type Rights = z.infer<typeof Rights>;

/** A small JPEG of the picture, and what it weighs: from it the weight of an output can be expected. */
export const Proxy = z.object({ width: z.int(), height: z.int(), bytes: z.int() });
export type Proxy = z.infer<typeof Proxy>;

/**
 * By which way of reading facts were found out. It goes up whenever the same file would now yield others (a new fact, another small
 * picture, another way of weighing): facts of an earlier one are never taken for another file of the same content.
 */
export const READER = 2;

/** What Rundle knows of a master without rendering it. */
export const MasterFacts = z.object({
  format: z.enum(MASTER_FORMATS).meta({ description: 'By content, not by extension' }),
  width: z.int().meta({ description: 'px, orientation applied' }),
  height: z.int().meta({ description: 'px, orientation applied' }),
  orientation: z.int().min(1).max(8).meta({ description: 'EXIF orientation, 1 upright' }),
  bytes: z.int(),
  bits: z.int().meta({ description: 'Bits per channel' }),
  channels: z.int(),
  colourModel: z.enum(['rgb', 'grey', 'cmyk', 'lab']),
  alpha: z.boolean(),
  pages: z.int().meta({ description: 'Without those that are smaller versions of others' }),
  page: z.int().default(0).meta({ description: 'The one that is used, of all, from 0' }),
  fractions: z.boolean().default(false).meta({ description: 'Whether its numbers are fractions, of which 0 to 1 are black to white' }),
  profile: z.string().nullable().meta({ description: 'Description of the embedded ICC profile' }),
  sRgb: z.boolean().meta({ description: 'Whether the embedded profile is sRGB' }),
  exifSpace: z
    .enum(['srgb', 'adobe-rgb'])
    .nullable()
    .default(null)
    .meta({ description: 'Colour space that EXIF names (ColorSpace, InteropIndex; DCF 2.0): what counts when no profile is embedded' }),
  carries: z
    .array(z.enum(['rights', 'description', 'capture', 'place', 'rating']))
    .default(['rights', 'description', 'capture', 'place', 'rating'])
    .meta({ description: 'Metadata groups of which it has fields besides those named here' }),
  captured: z.string().nullable().meta({ description: 'Capture time, local, yyyy-MM-ddTHH:mm:ss, with its offset where known' }),
  rating: z.int().min(0).max(5).nullable(),
  keywords: z.array(z.string()),
  title: z.string().nullable(),
  caption: z.string().nullable(),
  alt: z
    .string()
    .nullable()
    .default(null)
    .meta({ description: 'What it shows, for those who do not see it (IPTC Photo Metadata 2023.1, Alt Text)' }),
  rights: Rights,
  contact: z
    .record(z.enum(CONTACT_NAMES), z.string().nullable())
    .nullable()
    // Missing where an earlier commit read the file, and a list of names where one of a single day did.
    .catch(null)
    .meta({ description: 'The creator’s contact beside e-mail and web address; null: not known' }),
  gps: z.boolean(),
  camera: z.string().nullable(),
  lens: z.string().nullable(),
  jpegQuality: z
    .int()
    .min(1)
    .max(100)
    .nullable()
    .default(null)
    .meta({ description: 'Of a JPEG: the quality that its quantisation tables stand for (ITU-T T.81, Annex K)' }),
  likeness: z.string().length(16).nullable().default(null).meta({ description: 'Fingerprint of what it looks like' }),
  outsideSrgb: GamutLoss.nullable().default(null).meta({ description: 'Colours that sRGB cannot hold, measured on the proxy' }),
  proxy: Proxy.nullable(),
  weighings: z.array(Weighing).default([]).meta({ description: 'What it weighs at a few sizes, smallest first' }),
  finelyWeighed: z
    .boolean()
    .default(false)
    .meta({ description: 'Whether it was weighed at its larger sizes, too, as far as that could be done' }),
  salience: Salience.nullable()
    .default(null)
    .meta({ description: 'What draws the eye; null: not looked at yet, which is done when it is to be cut to a ratio' }),
  metadataUnread: z
    .boolean()
    .default(false)
    .meta({ description: 'Its metadata could not be read: what is missing here may be in the file' }),
  reader: z.int().default(0).meta({ description: 'Which way of reading found all this out; 0: one before they were counted' }),
});
export type MasterFacts = z.infer<typeof MasterFacts>;

/** What `inspect` tells of a file: its facts and what to look at. */
export const Inspection = MasterFacts.omit({
  proxy: true,
  rights: true,
  sRgb: true,
  colourModel: true,
  alpha: true,
  exifSpace: true,
  carries: true,
  contact: true,
  likeness: true,
  outsideSrgb: true,
  weighings: true,
  finelyWeighed: true,
  salience: true,
  reader: true,
}).extend({
  file: z.string(),
  creator: z.string().nullable(),
  copyright: z.string().nullable(),
  findings: z.array(Finding),
});
export type Inspection = z.infer<typeof Inspection>;
