import * as z from 'zod';
import { Id, Time } from '../api/sets';
import { FolderPath } from '../name/folder';
import { MachinePath } from '../plan/place';
import { flag, line, text, whole } from '../preset/fields';
import { GalleryWish } from './gallery/wish';
import { counted, weight } from '../figures';
import { Problem } from '../problem';
import { Finding } from '../vet/finding';
import { Mailbox } from './receiver';

/** Which files of a set go out, and how they lie. */
export const DeliveryContent = z
  .strictObject({
    presetIds: z.array(Id).max(100).default([]).meta({ description: 'Only what these presets make; empty: of all' }),
    masterIds: z.array(Id).max(5000).default([]).meta({ description: 'Only of these pictures; empty: of all' }),
    layout: z.enum(['folders', 'flat']).default('folders').meta({ description: 'A folder per preset, as it names it; or all in one' }),
    manifest: flag().default(false).meta({ description: 'With a list beside them by which they can be proved later' }),
  })
  .meta({ id: 'DeliveryContent' });
export type DeliveryContent = z.infer<typeof DeliveryContent>;

/** Mail is split under this, bytes of a whole message as it is sent. */
export const MAIL_LIMIT = { least: 50_000, usual: 10_000_000, most: 100_000_000 } as const;

const removesOld = flag()
  .default(false)
  .meta({ description: 'Whether what an earlier delivery left there, and this one has not, is removed' });

/** The way that a delivery takes. */
export const DeliveryWay = z
  .discriminatedUnion('kind', [
    z.strictObject({ kind: z.literal('folder'), path: MachinePath, removesOld }).meta({ description: 'A folder of the machine' }),
    z.strictObject({ kind: z.literal('zip') }).meta({ description: 'A ZIP, to be downloaded' }),
    z
      .strictObject({
        kind: z.literal('web'),
        receiverId: Id,
        folder: FolderPath.default(''),
        removesOld,
      })
      .meta({ description: 'A web space' }),
    z
      .strictObject({
        kind: z.literal('mail'),
        receiverId: Id.nullable().meta({ description: 'The server that sends it; null: as files that a mail program opens' }),
        to: z.array(Mailbox).min(1, { error: 'at least one address' }).max(50),
        subject: line(300),
        text: text(20_000),
        mostBytes: whole(MAIL_LIMIT.least, MAIL_LIMIT.most, 'bytes').default(MAIL_LIMIT.usual),
      })
      .meta({ description: 'Messages with the pictures attached' }),
  ])
  .meta({ id: 'DeliveryWay' });
export type DeliveryWay = z.infer<typeof DeliveryWay>;

/** A delivery as it is asked for. */
export const NewDelivery = z
  .strictObject({ way: DeliveryWay, content: DeliveryContent, gallery: GalleryWish.nullable().default(null) })
  .refine(({ way, gallery }) => gallery === null || way.kind !== 'mail', { path: ['gallery'], error: 'nothing: a gallery is not mailed' })
  .meta({ id: 'NewDelivery' });
export type NewDelivery = z.infer<typeof NewDelivery>;

/** What would go out, beforehand. */
export const DeliveryPreview = z
  .object({
    files: z.int(),
    bytes: z.int(),
    made: z.int().meta({ description: 'Files that are made for it, beside these: the page of a gallery, a manifest' }),
    left: z
      .array(z.string())
      .meta({ description: 'Files that do not go: somebody has changed them since they were made, or they are not at their places' }),
    unchanged: z.int().meta({ description: 'Files that lie there already as they are' }),
    old: z.array(z.string()).meta({ description: 'What an earlier delivery left there, and this one has not' }),
    visits: z.object({ phone: z.int(), desktop: z.int() }).nullable().meta({
      description: 'About what a visitor of the gallery loads who sees all of it, bytes: 360 px wide at density 2, 1440 px at density 1',
    }),
    untold: z
      .array(z.object({ masterId: Id, fileName: z.string() }))
      .meta({ description: 'Pictures of a gallery that have no words of their own, and for which none were typed' }),
    messages: z.int().nullable().meta({ description: 'Into how many messages it is split' }),
    problem: Problem.nullable().meta({ description: 'Why it cannot go out so' }),
  })
  .meta({ id: 'DeliveryPreview' });
export type DeliveryPreview = z.infer<typeof DeliveryPreview>;

/** checking: its files are opened and held against the house rules; held: somebody has to decide about what was found. */
export const DELIVERY_STATES = ['checking', 'held', 'sending', 'done', 'failed', 'cancelled'] as const;
export const DeliveryState = z.enum(DELIVERY_STATES);
export type DeliveryState = z.infer<typeof DeliveryState>;

export const DeliveryCounts = z.object({
  files: z.int().meta({ description: 'With those that are made for it' }),
  made: z.int().meta({ description: 'Made for it: the page of a gallery, a manifest' }),
  bytes: z.int(),
  checked: z.int().meta({ description: 'Of its files, while they are opened and checked' }),
  sent: z.int(),
  sentBytes: z.int(),
  kept: z.int().meta({ description: 'Lay there already, as they are' }),
  left: z.int().meta({ description: 'Left out' }),
  failed: z.int(),
  removed: z.int().meta({ description: 'Old files that were removed' }),
});
export type DeliveryCounts = z.infer<typeof DeliveryCounts>;

/** What the check of a file has found. */
export const FileFinding = z.object({ path: z.string(), finding: Finding });
export type FileFinding = z.infer<typeof FileFinding>;

/** A mail of a delivery. */
export const MailMessage = z.object({
  number: z.int(),
  subject: z.string(),
  files: z.int(),
  bytes: z.int().meta({ description: 'As it is sent; 0: not known yet' }),
  sent: z.boolean().meta({ description: 'Taken by the server; or, of a mail program’s own, written as a file' }),
});
export type MailMessage = z.infer<typeof MailMessage>;

export const Delivery = z
  .object({
    id: Id,
    setId: Id,
    way: DeliveryWay,
    content: DeliveryContent,
    gallery: GalleryWish.nullable(),
    state: DeliveryState,
    createdAt: Time,
    finishedAt: Time.nullable(),
    receiver: z.string().meta({ description: 'Who or where it goes to, in words' }),
    shownAt: z.string().nullable().meta({ description: 'Where the web shows it' }),
    counts: DeliveryCounts,
    findings: z.array(FileFinding),
    messages: z.array(MailMessage),
    problem: Problem.nullable(),
    stopping: z.boolean(),
    renewed: z.int().meta({ description: 'Files of its list that have been made anew since, where it can go on; else 0' }),
  })
  .meta({ id: 'Delivery' });
export type Delivery = z.infer<typeof Delivery>;

/** How a delivery goes on whose files have been made anew: with those of its list, or with what stands there now. */
export const ResumeWish = z
  .strictObject({ files: z.enum(['listed', 'renewed']).default('listed') })
  .prefault({})
  .meta({ id: 'ResumeWish' });
export type ResumeWish = z.infer<typeof ResumeWish>;

export const DELIVERED_STATES = ['waiting', 'sent', 'kept', 'left', 'failed'] as const;

/** A delivery with its files and what happened. */
export const DeliveryDetail = Delivery.extend({
  files: z.array(z.object({ path: z.string(), bytes: z.int(), state: z.enum(DELIVERED_STATES), problem: Problem.nullable() })),
  log: z.array(z.object({ at: Time, text: z.string() })),
}).meta({ id: 'DeliveryDetail' });
export type DeliveryDetail = z.infer<typeof DeliveryDetail>;

export const isOpenDelivery = ({ state }: Pick<Delivery, 'state'>): boolean => state === 'checking' || state === 'sending';

const files = (count: number): string => counted(count, 'file');

/** "46 files and 7 made for them". */
export const filesInWords = (count: number, made: number): string =>
  `${files(count)}${made ? ` and ${made} made for ${count === 1 ? 'it' : 'them'}` : ''}`;

const SENT: Record<DeliveryWay['kind'], string> = {
  folder: 'copied, checked by their hashes',
  zip: 'in the ZIP',
  web: 'sent',
  mail: 'mailed',
};

/**
 * What became of a delivery, or how far it is, in one sentence that is the same wherever it is told.
 * @example "48 files, 7.7 MB: 48 copied, checked by their hashes"
 */
export function deliverySentence({ state, way, counts, messages, problem, findings }: Delivery): string {
  const { sent, kept, left, failed, removed, bytes } = counts;
  const whole = `${filesInWords(counts.files - counts.made, counts.made)}, ${weight(bytes)}`;
  const done = [
    ...(sent ? [`${sent} ${way.kind === 'mail' ? mailed(way, messages) : SENT[way.kind]}`] : []),
    ...(kept ? [`${kept} lay there already`] : []),
    ...(left ? [`${left} left out`] : []),
    ...(failed ? [`${failed} failed`] : []),
    ...(removed ? [`${counted(removed, 'old file')} removed`] : []),
  ].join('; ');
  switch (state) {
    case 'checking':
      return `${whole}: ${counts.checked} of ${counts.files - counts.made} checked`;
    case 'held':
      return `${whole}: waits for a decision about ${files(new Set(findings.map(({ path }) => path)).size)}`;
    case 'sending':
      return `${whole}: ${sent + kept} of ${counts.files - left} ${way.kind === 'folder' ? 'copied' : 'sent'}`;
    case 'done':
      return `${whole}: ${done || 'nothing to do'}`;
    case 'failed':
      return `${whole}: ${[done, problem?.message].filter(Boolean).join('. ')}`;
    case 'cancelled':
      return `${whole}: cancelled${done ? `; ${done}` : ''}`;
  }
}

function mailed(way: { receiverId: string | null }, messages: readonly MailMessage[]): string {
  const count = counted(messages.length, 'message');
  return way.receiverId === null ? `in ${count} for a mail program` : `mailed in ${count}`;
}
