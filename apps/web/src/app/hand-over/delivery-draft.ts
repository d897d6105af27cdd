import {
  DeliveryWay,
  FolderPath,
  type GalleryLayout,
  GalleryWish,
  MAIL_START,
  MAIL_LIMIT,
  Mailbox,
  type NewDelivery,
  typedMailboxes,
} from '@rundle/core';
import { placeOf } from '../plan/place-fields';

/** A delivery as it is being put together: what was written for another way stays. */
export interface DeliveryDraft {
  way: DeliveryWay['kind'];
  as: 'files' | 'gallery';
  /** Empty: all. */
  presetIds: readonly string[];
  onlySelected: boolean;
  layout: 'folders' | 'flat';
  manifest: boolean;
  galleryLayout: GalleryLayout;
  title: string;
  language: string;
  text: string;
  captions: boolean;
  path: string;
  /** Of each kind the receiver that is chosen. */
  webId: string;
  mailId: string;
  folder: string;
  removesOld: boolean;
  to: string;
  subject: string;
  message: string;
  /** MB, as it is typed. */
  limit: string;
}

export const FIRST_DRAFT: DeliveryDraft = {
  way: 'folder',
  as: 'files',
  presetIds: [],
  onlySelected: false,
  layout: 'folders',
  manifest: false,
  galleryLayout: 'rows',
  title: '',
  language: 'en',
  text: '',
  captions: true,
  path: '',
  webId: '',
  mailId: '',
  folder: '',
  removesOld: false,
  to: '',
  subject: MAIL_START.subject,
  message: MAIL_START.text,
  limit: String(MAIL_LIMIT.usual / 1e6),
};

/** What has been put together, or a sentence about what is missing or wrong. */
export function deliveryOf(draft: DeliveryDraft, selected: readonly string[]): NewDelivery | string {
  const way = wayOf(draft);
  if (typeof way === 'string') return way;
  if (draft.onlySelected && selected.length === 0) return 'No picture is selected: select some, or send all.';
  const content = {
    presetIds: [...draft.presetIds],
    masterIds: draft.onlySelected ? [...selected] : [],
    layout: draft.layout,
    manifest: draft.manifest,
  };
  if (draft.as === 'files' || draft.way === 'mail') return { way, content, gallery: null };
  const gallery = galleryOf(draft);
  return typeof gallery === 'string' ? gallery : { way, content, gallery };
}

export function galleryOf({ galleryLayout, title, language, text, captions }: DeliveryDraft): GalleryWish | string {
  const parsed = GalleryWish.safeParse({ layout: galleryLayout, title: title.trim(), language: language.trim(), text, captions });
  if (parsed.success) return parsed.data;
  const field = String(parsed.error.issues[0]?.path[0] ?? '');
  return field === 'title'
    ? 'Heading: write down what the page is called.'
    : `${FIELDS[field] ?? 'Gallery'}: ${parsed.error.issues[0]?.message ?? 'something else'}.`;
}

const FIELDS: Record<string, string> = { language: 'Language', text: 'Text' };

function wayOf(draft: DeliveryDraft): DeliveryWay | string {
  switch (draft.way) {
    case 'zip':
      return { kind: 'zip' };
    case 'folder': {
      const place = placeOf({ kind: 'folder', path: draft.path, folder: '' });
      return typeof place === 'string' ? place : place.kind === 'folder' ? { ...place, removesOld: draft.removesOld } : '';
    }
    case 'web': {
      if (!draft.webId) return 'Choose a web space, or add one.';
      const folder = FolderPath.safeParse(draft.folder.trim().replace(/^\/+|\/+$/g, ''));
      if (!folder.success) return `Folder on the web space: ${folder.error.issues[0]?.message ?? 'another name'}.`;
      return { kind: 'web', receiverId: draft.webId, folder: folder.data, removesOld: draft.removesOld };
    }
    case 'mail':
      return mailOf(draft);
  }
}

function mailOf({ mailId, to, subject, message, limit }: DeliveryDraft): DeliveryWay | string {
  const addresses = typedMailboxes(to);
  if (addresses.length === 0) return 'To: write down at least one address.';
  const wrong = addresses.find((address) => !Mailbox.safeParse(address).success);
  if (wrong) return `To: “${wrong}” is no e-mail address.`;
  const mostBytes = Math.round(Number(limit.replace(',', '.')) * 1e6);
  if (!(mostBytes >= MAIL_LIMIT.least && mostBytes <= MAIL_LIMIT.most))
    return `Limit: a number from ${MAIL_LIMIT.least / 1e6} to ${MAIL_LIMIT.most / 1e6} MB.`;
  const way = DeliveryWay.safeParse({
    kind: 'mail',
    receiverId: mailId || null,
    to: addresses,
    subject: subject.trim(),
    text: message,
    mostBytes,
  });
  return way.success ? way.data : `Message: ${way.error.issues[0]?.message ?? 'something is wrong'}.`;
}
