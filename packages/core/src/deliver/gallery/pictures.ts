import { type EncodedTypeName, ENCODED_TYPE_NAMES, FILE_TYPES } from '../../types/table';

/** A file that a gallery may show. */
export interface GalleryFile {
  /** From the page, with / between folders. */
  path: string;
  type: EncodedTypeName;
  width: number;
  height: number;
  bytes: number;
}

/** What is told of a picture: only what its preset keeps. */
export interface GalleryText {
  title: string | null;
  caption: string | null;
  credit: string | null;
  /** What it shows, for those who do not see it. */
  alt: string | null;
}

export interface GalleryPicture {
  /** Of its master. */
  id: string;
  /** What the photographer has called it. */
  tags: readonly string[];
  /** When it was taken, ISO 8601 by the camera's clock; null: not told, or not to be told. */
  captured: string | null;
  /** The files of one type each, the lightest type first; the last is the one for browsers that know no other. */
  sources: { type: EncodedTypeName; files: GalleryFile[] }[];
  text: GalleryText;
  /** Some hundred bytes of it as a data address, shown until a file has come; null: none. */
  placeholder: string | null;
}

/** Types that browsers show, the best first; the last that there is stands for all browsers. */
const SHOWN: readonly EncodedTypeName[] = ENCODED_TYPE_NAMES.filter((name) => FILE_TYPES[name].inBrowsers !== null).sort(
  (a, b) => FILE_TYPES[a].inBrowsers! - FILE_TYPES[b].inBrowsers!,
);

/** How far the sides of two files of the same picture may be from the same shape, px of the larger one: each is rounded. */
const SAME_SHAPE = 2;

/**
 * The files that show one picture, by type and size: those of the same shape as its largest, of two of the same width the lighter one.
 * @returns empty when no browser shows any of them
 */
export function sourcesOf(all: readonly GalleryFile[]): GalleryPicture['sources'] {
  const shown = all.filter(({ type }) => SHOWN.includes(type));
  const largest = shown.reduce<GalleryFile | null>(
    (best, file) => (best && best.width * best.height >= file.width * file.height ? best : file),
    null,
  );
  if (!largest) return [];
  const alike = shown.filter(({ width, height }) => {
    const scale = largest.width / width;
    return Math.abs(height * scale - largest.height) <= SAME_SHAPE * scale;
  });
  return SHOWN.flatMap((type) => {
    const files = alike.filter((file) => file.type === type).toSorted((a, b) => a.width - b.width || a.bytes - b.bytes);
    const lightest = files.filter((file, at) => files[at - 1]?.width !== file.width);
    return lightest.length ? [{ type, files: lightest }] : [];
  });
}

/** Of what a browser that knows no other type is shown. */
export const mainFiles = ({ sources }: Pick<GalleryPicture, 'sources'>): GalleryFile[] => sources.at(-1)!.files;

/** Whether the page has no words for a picture: then it is listed before it goes. */
export const isUntold = ({ alt, title, caption }: GalleryText): boolean => !alt && !title && !caption;

/** With what was typed for the page, where the picture has no words of its own. */
export function withTypedText(picture: GalleryPicture, texts: Readonly<Record<string, string>>): GalleryPicture {
  const typed = texts[picture.id];
  return typed && isUntold(picture.text) ? { ...picture, text: { ...picture.text, title: typed } } : picture;
}
