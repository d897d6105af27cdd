import { weight } from '../../figures';
import { chaptersOf, type Chapter } from './chapters';
import { GALLERY_FILES } from './files';
import { escapeHtml, pathAddress } from './html';
import { coverOf, pictureIds, pictureList } from './list';
import { type GalleryPicture, mainFiles, withTypedText } from './pictures';
import { galleryWords } from './words';
import type { GalleryWish } from './wish';

/** The ZIP of all pictures that is offered on the page. */
export interface GalleryZip {
  pictures: number;
  bytes: number;
}

/**
 * The whole page.
 * @param zip what of it is offered; null: nothing
 */
export function galleryPage(wish: GalleryWish, all: readonly GalleryPicture[], zip: GalleryZip | null): string {
  const pictures = all.map((picture) => withTypedText(picture, wish.texts));
  const cover = coverOf(wish, pictures);
  const chapters = chaptersOf(pictures, wish.chapters, wish.language);
  return `<!DOCTYPE html>
<html lang="${escapeHtml(wish.language)}" class="look-${wish.look}">
<head>
<meta charset="utf-8">
<title>${escapeHtml(wish.title)}</title>
<meta name="viewport" content="width=device-width, initial-scale=1">
<meta name="color-scheme" content="${{ device: 'light dark', white: 'light', grey: 'dark', black: 'dark' }[wish.look]}">
<link rel="icon" href="data:,">
<link rel="stylesheet" href="${GALLERY_FILES.pageStyle}">
${links('')}
</head>
<body>
<main>
<header>
${cover ? `${cover}\n` : ''}<h1>${escapeHtml(wish.title)}</h1>
${byline(wish)}${paragraphs(wish.text)}${contents(chapters, wish.language)}${zip ? download(zip, wish.language) : ''}</header>
${picturesOf(wish, chapters, { base: '', hasCover: cover !== '' })}
</main>
${wish.footer.trim() ? `<footer>\n${paragraphs(wish.footer)}</footer>\n` : ''}${scripts('')}
</body>
</html>
`;
}

/**
 * What is put into a page of one's own.
 * @param base address of the folder in which the gallery lies, with a slash at its end; empty: the page's own folder
 */
export function gallerySnippet(wish: GalleryWish, all: readonly GalleryPicture[], base: string): string {
  const pictures = all.map((picture) => withTypedText(picture, wish.texts));
  const chapters = chaptersOf(pictures, wish.chapters, wish.language);
  return `${links(base)}\n${picturesOf(wish, chapters, { base, hasCover: false })}\n${scripts(base)}\n`;
}

const links = (base: string): string =>
  [GALLERY_FILES.viewer[0], GALLERY_FILES.style].map((path) => `<link rel="stylesheet" href="${pathAddress(path, base)}">`).join('\n');

const scripts = (base: string): string =>
  [...GALLERY_FILES.viewer.slice(1), GALLERY_FILES.script]
    .map((path) => `<script src="${pathAddress(path, base)}" defer></script>`)
    .join('\n');

const paragraphs = (text: string): string =>
  text
    .split(/\n\s*\n/)
    .filter((part) => part.trim() !== '')
    .map((part) => `<p>${escapeHtml(part.trim()).replace(/\n/g, '<br>')}</p>\n`)
    .join('');

function byline({ photographer, link }: GalleryWish): string {
  const name = photographer.trim() || link.replace(/^https?:\/\/(www\.)?|\/$/g, '');
  if (!name) return '';
  return `<p class="by">${link ? `<a href="${escapeHtml(link)}">${escapeHtml(name)}</a>` : escapeHtml(name)}</p>\n`;
}

const chapterId = (at: number): string => `chapter-${at + 1}`;

function contents(chapters: readonly Chapter[], language: string): string {
  if (chapters.length < 2) return '';
  const entries = chapters.flatMap(({ heading }, at) =>
    heading === null ? [] : [`<li><a href="#${chapterId(at)}">${escapeHtml(heading)}</a></li>`],
  );
  return `<nav aria-label="${escapeHtml(galleryWords(language).chapters)}"><ul>${entries.join('')}</ul></nav>\n`;
}

function download({ pictures, bytes }: GalleryZip, language: string): string {
  const words = galleryWords(language).downloadAll.replace('{n}', String(pictures));
  return `<p class="all"><a href="${GALLERY_FILES.zip}" download>${escapeHtml(words)}</a> <span>ZIP, ${weight(bytes)}</span></p>\n`;
}

/** All pictures, by their chapters, and what the script of the large view has to know. */
function picturesOf(wish: GalleryWish, chapters: readonly Chapter[], page: { base: string; hasCover: boolean }): string {
  const words = galleryWords(wish.language);
  const ids = pictureIds(chapters.flatMap(({ pictures }) => pictures));
  let before = 0;
  const sections = chapters.map(({ heading, pictures }, at) => {
    const list = pictureList(wish, pictures, { ...page, before, ids });
    before += pictures.length;
    if (heading === null) return chapters.length > 1 ? `<section>\n${list}\n</section>` : list;
    return `<section>\n<h2 id="${chapterId(at)}">${escapeHtml(heading)}</h2>\n${list}\n</section>`;
  });
  const offers = wish.downloads === 'none' ? '' : ' data-offers="download"';
  return `<div class="picture-set look-${wish.look}" data-words="${escapeHtml(JSON.stringify(words))}"${offers}>\n${sections.join('\n')}\n</div>`;
}

/** The file of each picture that a ZIP of all holds: the largest that every browser shows. */
export const zipFiles = (pictures: readonly Pick<GalleryPicture, 'sources'>[]) => pictures.map((picture) => mainFiles(picture).at(-1)!);
