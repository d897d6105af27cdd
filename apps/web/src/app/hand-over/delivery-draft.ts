import {
  DeliveryWay,
  FolderPath,
  type GalleryChapters,
  type GalleryDownloads,
  type GalleryLayout,
  type GalleryLook,
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
  look: GalleryLook;
  title: string;
  language: string;
  text: string;
  photographer: string;
  link: string;
  footer: string;
  cover: GalleryWish['cover'];
  chapters: GalleryChapters;
  downloads: GalleryDownloads;
  captions: boolean;
  /** What pictures without words of their own are called on the page, by master. */
  texts: Readonly<Record<string, string>>;
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
  look: 'device',
  title: '',
  language: 'en',
  text: '',
  photographer: '',
  link: '',
  footer: '',
  cover: null,
  chapters: 'none',
  downloads: 'none',
  captions: true,
  texts: {},
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

/** Fields that something can be missing in or wrong with. */
export type DraftField = 'path' | 'web' | 'folder' | 'to' | 'limit' | 'message' | 'title' | 'text' | 'link' | 'gallery' | 'selected';

/** Why a delivery cannot be put together yet. */
export interface DraftProblem {
  field: DraftField;
  sentence: string;
  /** Nothing has been written down there yet: no fault until it is to go. */
  isMissing: boolean;
}

const missing = (field: DraftField, sentence: string): DraftProblem => ({ field, sentence, isMissing: true });
const wrong = (field: DraftField, sentence: string): DraftProblem => ({ field, sentence, isMissing: false });
export const isProblem = (value: object): value is DraftProblem => 'sentence' in value;

/** What has been put together, or what is missing or wrong. */
export function deliveryOf(draft: DeliveryDraft, selected: readonly string[]): NewDelivery | DraftProblem {
  const way = wayOf(draft);
  if (isProblem(way)) return way;
  if (draft.onlySelected && selected.length === 0) return missing('selected', 'No picture is selected: select some, or send all.');
  const content = {
    presetIds: [...draft.presetIds],
    masterIds: draft.onlySelected ? [...selected] : [],
    layout: draft.layout,
    manifest: draft.manifest,
  };
  if (draft.as === 'files' || draft.way === 'mail') return { way, content, gallery: null };
  const gallery = galleryOf(draft);
  return isProblem(gallery) ? gallery : { way, content, gallery };
}

function galleryOf(draft: DeliveryDraft): GalleryWish | DraftProblem {
  const { galleryLayout, look, title, language, text, photographer, footer, cover, chapters, downloads, captions, texts } = draft;
  if (!title.trim()) return missing('title', 'Write down what the page is called.');
  const parsed = GalleryWish.safeParse({
    layout: galleryLayout,
    look,
    title: title.trim(),
    language,
    text,
    photographer: photographer.trim(),
    link: webAddress(draft.link),
    footer,
    cover,
    chapters,
    downloads,
    captions,
    texts,
  });
  if (parsed.success) return parsed.data;
  const field = String(parsed.error.issues[0]?.path[0] ?? '');
  if (field === 'link') return wrong('link', `“${draft.link.trim()}” is no web address such as https://studio.example.`);
  return wrong(
    field === 'title' || field === 'text' ? field : 'gallery',
    `Gallery: ${parsed.error.issues[0]?.message ?? 'something else'}.`,
  );
}

/** An address as it is typed: most leave the first part out. */
export function webAddress(typed: string): string {
  const text = typed.trim();
  return text === '' || /^[a-z][a-z0-9+.-]*:/i.test(text) ? text : `https://${text}`;
}

function wayOf(draft: DeliveryDraft): DeliveryWay | DraftProblem {
  switch (draft.way) {
    case 'zip':
      return { kind: 'zip' };
    case 'folder': {
      if (!draft.path.trim()) return missing('path', 'Choose a folder, or write its full path down.');
      const place = placeOf({ kind: 'folder', path: draft.path, folder: '' });
      if (typeof place === 'string') return wrong('path', place);
      return place.kind === 'folder' ? { ...place, removesOld: draft.removesOld } : missing('path', '');
    }
    case 'web': {
      if (!draft.webId) return missing('web', 'Choose a web space, or add one.');
      const folder = FolderPath.safeParse(draft.folder.trim().replace(/^\/+|\/+$/g, ''));
      if (!folder.success) return wrong('folder', `Folder on the web space: ${folder.error.issues[0]?.message ?? 'another name'}.`);
      return { kind: 'web', receiverId: draft.webId, folder: folder.data, removesOld: draft.removesOld };
    }
    case 'mail':
      return mailOf(draft);
  }
}

function mailOf({ mailId, to, subject, message, limit }: DeliveryDraft): DeliveryWay | DraftProblem {
  const addresses = typedMailboxes(to);
  if (addresses.length === 0) return missing('to', 'Write down at least one address.');
  const bad = addresses.find((address) => !Mailbox.safeParse(address).success);
  if (bad) return wrong('to', `“${bad}” is no e-mail address.`);
  const mostBytes = Math.round(Number(limit.replace(',', '.')) * 1e6);
  if (!(mostBytes >= MAIL_LIMIT.least && mostBytes <= MAIL_LIMIT.most))
    return wrong('limit', `A number from ${MAIL_LIMIT.least / 1e6} to ${MAIL_LIMIT.most / 1e6} MB.`);
  const way = DeliveryWay.safeParse({
    kind: 'mail',
    receiverId: mailId || null,
    to: addresses,
    subject: subject.trim(),
    text: message,
    mostBytes,
  });
  return way.success ? way.data : wrong('message', `Message: ${way.error.issues[0]?.message ?? 'something is wrong'}.`);
}
