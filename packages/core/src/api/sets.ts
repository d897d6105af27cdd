import * as z from 'zod';
import { OverridesChange } from '../decisions/change';
import { Overrides } from '../decisions/decisions';
import { MasterFacts } from '../facts/facts';
import { Filter } from '../gather/filter';
import { Marks } from '../gather/marks';
import { SecondLook } from '../proof/second-look';
import { StudioDetails } from '../metadata/studio';
import { OnceByPreset } from '../plan/once';
import { Place } from '../plan/place';
import { line } from '../preset/fields';
import { Problem } from '../problem';
import { Finding } from '../vet/finding';

export const Id = z.uuid();
export const Time = z.iso.datetime().meta({ description: 'UTC, ISO 8601' });

export const SetTitle = line(120, 1).meta({ title: 'Title' });

/** Where a set stands: being worked on, put away, or in the bin, from which it is gone for good after 30 days. */
export const Shelf = z.enum(['work', 'archive', 'bin']);
export type Shelf = z.infer<typeof Shelf>;

/** A set in the list of sets: the pictures of one job. */
export const SetSummary = z
  .object({
    id: Id,
    title: z.string(),
    createdAt: Time,
    pictures: z.int(),
    bytes: z.int().meta({ description: 'Weight of all masters' }),
    outputs: z.int().meta({ description: 'Outputs ready to hand over' }),
    running: z.boolean(),
    shelf: Shelf,
    covers: z.array(Id).meta({ description: 'Up to four masters to show' }),
  })
  .meta({ id: 'SetSummary' });
export type SetSummary = z.infer<typeof SetSummary>;

export const NewSet = z.strictObject({ title: SetTitle }).meta({ id: 'NewSet' });

/** Keywords that lists carry of each picture, and letters of each: a file may hold a hundred thousand. */
const MOST_KEYWORDS = 100;
const LONGEST_KEYWORD = 80;

/** What a contact sheet shows of a master's facts; all of them are a call of their own. */
export const Glance = MasterFacts.pick({
  format: true,
  width: true,
  height: true,
  orientation: true,
  bits: true,
  colourModel: true,
  alpha: true,
  pages: true,
  profile: true,
  sRgb: true,
  captured: true,
  gps: true,
  salience: true,
}).extend({
  keywords: MasterFacts.shape.keywords
    .transform((keywords) => keywords.slice(0, MOST_KEYWORDS).map((keyword) => keyword.slice(0, LONGEST_KEYWORD)))
    .meta({ description: 'The first of them; all are in the master’s own facts' }),
});
export type Glance = z.infer<typeof Glance>;

/** Of two states of the same, the one with the higher number is the later one. */
const Revision = z.int().meta({ description: 'How often it has been changed' });

const AnyMaster = Marks.extend({
  id: Id,
  fileName: z.string(),
  position: z.int(),
  bytes: z.int(),
  codes: z.array(Finding.shape.code).meta({ description: 'Codes of its findings' }),
  overrides: Overrides,
  revision: Revision,
});

/** The first digits of the file's SHA-256. */
const Content = z.string().meta({ description: 'Changes when the file does' });

/** On its way in, or on its way in again: then what was known of it stands. */
const arriving = { state: z.literal('arriving'), content: Content.nullable(), problem: z.null() };
const ready = { state: z.literal('ready'), content: Content, problem: z.null() };
/** Not readable, or not any more: then what was known of it stands, for when it comes back. */
const failed = { state: z.literal('failed'), content: Content.nullable(), problem: Problem };

/** A source picture of a set, in set order. */
export const Master = z
  .discriminatedUnion('state', [
    AnyMaster.extend({ ...arriving, facts: Glance.nullable() }),
    AnyMaster.extend({ ...ready, facts: Glance }),
    AnyMaster.extend({ ...failed, facts: Glance.nullable() }),
  ])
  .meta({ id: 'Master' });
export type Master = z.infer<typeof Master>;

/** A part of a set's masters, in set order. */
export const MasterPage = z.object({ masters: z.array(Master), total: z.int() }).meta({ id: 'MasterPage' });
export type MasterPage = z.infer<typeof MasterPage>;

/** Everything that is known of one master. */
export const MasterDetail = z
  .discriminatedUnion('state', [
    AnyMaster.extend({ ...arriving, facts: MasterFacts.nullable(), findings: z.array(Finding) }),
    AnyMaster.extend({ ...ready, facts: MasterFacts, findings: z.array(Finding) }),
    AnyMaster.extend({ ...failed, facts: MasterFacts.nullable(), findings: z.array(Finding) }),
  ])
  .meta({ id: 'MasterDetail' });
export type MasterDetail = z.infer<typeof MasterDetail>;

/** What becomes of copies that were made under further names before files gave way to their newer selves. */
const Copies = z.enum(['go', 'stay']);

/** A set as it is worked on: what all who look at it share. */
export const SetDetail = SetSummary.extend({
  revision: Revision,
  filter: Filter,
  presetIds: z.array(Id).meta({ description: 'The presets chosen for it, in their order' }),
  houseRulesId: Id.nullable().meta({ description: 'What its receiver demands' }),
  rights: StudioDetails.meta({ description: 'Rights details of its own, over the studio’s; empty fields are the studio’s' }),
  place: Place.meta({ description: 'Where its files go' }),
  once: OnceByPreset.meta({ description: 'What is varied of its presets, until it is cleared or saved' }),
  secondLooks: z.array(SecondLook).meta({ description: 'Pictures that are to be looked at again, as a preset makes them' }),
  keepsEarlier: z.boolean().meta({ description: 'Whether files of an earlier name or place stay where they are' }),
  copies: Copies.nullable().meta({ description: 'What becomes of older copies; null: nobody has been asked' }),
  remake: z.boolean().meta({ description: 'Whether what an earlier engine made is made again; it is up to date otherwise' }),
}).meta({ id: 'SetDetail' });
export type SetDetail = z.infer<typeof SetDetail>;

export const SetChange = z
  .strictObject({
    title: SetTitle,
    filter: Filter,
    presetIds: z.array(Id).max(100),
    houseRulesId: Id.nullable(),
    shelf: Shelf,
    rights: StudioDetails,
    place: Place,
    once: OnceByPreset,
    secondLooks: z.array(SecondLook).max(5000),
    remake: z.boolean(),
    keepsEarlier: z.boolean(),
    copies: Copies,
  })
  .partial()
  .meta({ id: 'SetChange' });
export type SetChange = z.infer<typeof SetChange>;

/** New marks of pictures; what is not named stays. */
export const MarksChange = z
  .strictObject({
    marks: z
      .array(z.strictObject({ masterId: Id, ...Marks.partial().shape, overrides: OverridesChange.optional() }))
      .min(1)
      .max(5000),
  })
  .meta({ id: 'MarksChange' });
export type MarksChange = z.infer<typeof MarksChange>;

/** What has been changed, as it is known from then on. */
export const MarksChanged = z.object({ revisions: z.record(Id, Revision) }).meta({ id: 'MarksChanged' });
export type MarksChanged = z.infer<typeof MarksChanged>;

/** What a file of decisions says of the pictures of a set. */
export const MatchedDecisions = z
  .object({
    marks: MarksChange.shape.marks,
    others: z.int().meta({ description: 'Pictures that the file speaks of and the set does not have' }),
  })
  .meta({ id: 'MatchedDecisions' });
export type MatchedDecisions = z.infer<typeof MatchedDecisions>;

export const SomeMasters = z.strictObject({ masterIds: z.array(Id).min(1).max(5000) }).meta({ id: 'SomeMasters' });

/** A file that came in but is in the set already: its content is that of another picture. */
export const Twin = z.object({ fileName: line(255, 1), sha256: z.string().regex(/^[0-9a-f]{64}$/), of: z.string() }).meta({ id: 'Twin' });
export type Twin = z.infer<typeof Twin>;

/** The answer to an upload: what came in, and what was left aside because it is there already. */
export const UploadResult = z.object({ masters: z.array(Master), twins: z.array(Twin) }).meta({ id: 'UploadResult' });
export type UploadResult = z.infer<typeof UploadResult>;

export const TwinsWanted = z
  .strictObject({
    twins: z
      .array(Twin.omit({ of: true }))
      .min(1)
      .max(5000),
  })
  .meta({ id: 'TwinsWanted' });
