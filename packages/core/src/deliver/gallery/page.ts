import { FILE_TYPES } from '../../types/table';
import { smallestSufficient, sizesOf } from './sizes';
import { slotsOf, slotWidth, stretchesOf, type Slot, type Stretch } from './slots';
import { type GalleryFile, type GalleryPicture, mainFiles } from './pictures';
import type { GalleryWish } from '../delivery';

/** Where the page finds what it is made of, from its own folder. */
export const GALLERY_FILES = {
  page: 'index.html',
  pageStyle: 'view/page.css',
  style: 'view/gallery.css',
  script: 'view/gallery.js',
  viewer: ['view/photoswipe.css', 'view/photoswipe.umd.min.js', 'view/photoswipe-lightbox.umd.min.js'],
} as const;

/** All that is made for a gallery beside its pictures. */
export const galleryPaths = (): string[] => {
  const { page, pageStyle, style, script, viewer } = GALLERY_FILES;
  return [page, pageStyle, style, script, ...viewer];
};

/** Text as it may stand in HTML, also within a value in quotation marks (HTML, 13.3). */
export const escapeHtml = (text: string): string =>
  text.replace(/[&<>"']/g, (sign) => `&#${sign.charCodeAt(0)};`).replace(/[\u0000-\u0008\u000b\u000c\u000e-\u001f\u007f]/g, ' ');

/** A path as an address, from the page. */
const address = (path: string, base: string): string => escapeHtml(base + path.split('/').map(encodeURIComponent).join('/'));

/** The whole page. */
export function galleryPage(wish: GalleryWish, pictures: readonly GalleryPicture[]): string {
  return `<!DOCTYPE html>
<html lang="${escapeHtml(wish.language)}">
<head>
<meta charset="utf-8">
<title>${escapeHtml(wish.title)}</title>
<meta name="viewport" content="width=device-width, initial-scale=1">
<meta name="color-scheme" content="light dark">
<link rel="icon" href="data:,">
<link rel="stylesheet" href="${GALLERY_FILES.pageStyle}">
${links('')}
</head>
<body>
<main>
<header>
<h1>${escapeHtml(wish.title)}</h1>
${paragraphs(wish.text)}</header>
${listOf(wish, pictures, '')}
</main>
${scripts('')}
</body>
</html>
`;
}

/**
 * What is put into a page of one's own.
 * @param base address of the folder in which the gallery lies, with a slash at its end; empty: the page's own folder
 */
export const gallerySnippet = (wish: GalleryWish, pictures: readonly GalleryPicture[], base: string): string =>
  `${links(base)}\n${listOf(wish, pictures, base)}\n${scripts(base)}\n`;

const links = (base: string): string =>
  [GALLERY_FILES.viewer[0], GALLERY_FILES.style].map((path) => `<link rel="stylesheet" href="${address(path, base)}">`).join('\n');

const scripts = (base: string): string =>
  [...GALLERY_FILES.viewer.slice(1), GALLERY_FILES.script].map((path) => `<script src="${address(path, base)}" defer></script>`).join('\n');

const paragraphs = (text: string): string =>
  text
    .split(/\n\s*\n/)
    .filter((part) => part.trim() !== '')
    .map((part) => `<p>${escapeHtml(part.trim()).replace(/\n/g, '<br>')}</p>\n`)
    .join('');

function listOf({ layout, captions }: GalleryWish, pictures: readonly GalleryPicture[], base: string): string {
  const slots = slotsOf(layout, pictures.map(ratioOf));
  const items = pictures.map((picture, at) => itemOf(picture, at, { layout, captions, slot: slots[at]!, base }));
  return `<ul class="picture-page ${layout}">\n${items.join('\n')}\n</ul>`;
}

export const ratioOf = (picture: Pick<GalleryPicture, 'sources'>): number => {
  const { width, height } = mainFiles(picture).at(-1)!;
  return width / height;
};

interface ItemPlace {
  layout: GalleryWish['layout'];
  captions: boolean;
  slot: Slot;
  base: string;
}

function itemOf(picture: GalleryPicture, at: number, { layout, captions, slot, base }: ItemPlace): string {
  const stretches = stretchesOf(layout, slot);
  const main = mainFiles(picture);
  const largest = main.at(-1)!;
  const others = picture.sources.slice(0, -1);
  const sources = others.map(
    ({ type, files }) =>
      `<source type="${FILE_TYPES[type].mediaType}" srcset="${srcset(files, base)}" sizes="${sizesOf(stretches, files)}">`,
  );
  const own = smallestSufficient(main, 800, 1);
  const background = picture.placeholder ? `;background-image:url('${escapeHtml(picture.placeholder)}')` : '';
  // Of two sizes the sides are rounded each: by its own shape a file would move all that stands below it by a hair when it comes.
  const style = ` style="aspect-ratio:${largest.width}/${largest.height}${background}"`;
  // What is in sight at once is fetched at once.
  const lazy = at < 4 ? '' : ' loading="lazy"';
  const image = `<img src="${address(own.path, base)}" srcset="${srcset(main, base)}" sizes="${sizesOf(stretches, main)}" width="${largest.width}" height="${largest.height}" alt="${escapeHtml(altOf(picture))}"${lazy} decoding="async"${style}>`;
  const link = `<a href="${address(largest.path, base)}" data-pswp-width="${largest.width}" data-pswp-height="${largest.height}" data-pswp-srcset="${srcset(main, base)}">`;
  const shown = sources.length ? `<picture>${sources.join('')}${image}</picture>` : image;
  const shape = largest.width >= largest.height ? 'lying' : 'upright';
  return `<li class="${shape}"${shares(layout, slot)}><figure>${link}${shown}</a>${captions ? captionOf(picture) : ''}</figure></li>`;
}

/** What a picture takes of its row, for the style sheet. */
function shares(layout: GalleryWish['layout'], slot: Slot): string {
  if (layout === 'grid') return '';
  const values = slot.map(({ share, gaps }, at) => `--share-${at}:${share};--gaps-${at}:${gaps}`);
  return ` style="${values.join(';')}"`;
}

const srcset = (files: readonly GalleryFile[], base: string): string =>
  files.map(({ path, width }) => `${address(path, base)} ${width}w`).join(', ');

/** Never empty: the link around it has to have a name. */
const altOf = ({ text: { alt, title, caption } }: GalleryPicture): string => alt ?? title ?? caption ?? 'Picture without a description';

function captionOf({ text: { title, caption, credit } }: GalleryPicture): string {
  const parts = [
    ...(title ? [`<strong>${escapeHtml(title)}</strong>`] : []),
    ...(caption && caption !== title ? [`<span>${escapeHtml(caption)}</span>`] : []),
    ...(credit ? [`<small>${escapeHtml(credit)}</small>`] : []),
  ];
  return parts.length ? `<figcaption>${parts.join(' ')}</figcaption>` : '';
}

/** About what a visitor fetches who sees all of a page, bytes: the smallest sufficient files. */
export function visitBytes(
  layout: GalleryWish['layout'],
  pictures: readonly Pick<GalleryPicture, 'sources'>[],
  { windowWidth, density }: { windowWidth: number; density: number },
): number {
  const slots = slotsOf(layout, pictures.map(ratioOf));
  return pictures.reduce((sum, { sources }, at) => {
    const stretches: Stretch[] = stretchesOf(layout, slots[at]!);
    return sum + smallestSufficient(sources[0]!.files, slotWidth(stretches, windowWidth), density).bytes;
  }, 0);
}
