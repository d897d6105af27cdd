import { FILE_TYPES } from '../../types/table';
import { chaptersOf } from './chapters';
import { escapeHtml, pathAddress } from './html';
import { type GalleryFile, type GalleryPicture, mainFiles } from './pictures';
import { smallestSufficient, sizesOf } from './sizes';
import { type Slot, slotsOf, slotWidth, stretchesOf, type Stretch } from './slots';
import { galleryWords } from './words';
import type { GalleryLayout, GalleryWish } from './wish';

/** Pictures that are in sight at once, and are fetched at once. */
const IN_SIGHT = 4;

interface ListPlace {
  base: string;
  hasCover: boolean;
  /** How many pictures stand before it on the page. */
  before: number;
  ids: ReadonlyMap<GalleryPicture, string>;
}

/** Pictures in the layout of the page. */
export function pictureList(wish: GalleryWish, pictures: readonly GalleryPicture[], { base, hasCover, before, ids }: ListPlace): string {
  const { layout, captions } = wish;
  const slots = slotsOf(layout, pictures.map(ratioOf));
  const items = pictures.map((picture, at) => {
    const number = before + at + 1;
    const isFirst = !hasCover && number === 1;
    const stretches = stretchesOf(layout, slots[at]!);
    const largest = mainFiles(picture).at(-1)!;
    const alt = altOf(picture, wish, number);
    const image = imageOf(picture, stretches, { base, alt, loading: isFirst ? 'first' : number <= IN_SIGHT ? 'soon' : 'lazy' });
    const link = `<a href="${pathAddress(largest.path, base)}" data-pswp-width="${largest.width}" data-pswp-height="${largest.height}" data-pswp-srcset="${srcset(mainFiles(picture), base)}">`;
    const shape = largest.width >= largest.height ? 'lying' : 'upright';
    return `<li id="${ids.get(picture)!}" class="${shape}"${shares(layout, slots[at]!)}><figure>${link}${image}</a>${captions ? captionOf(picture) : ''}</figure></li>`;
  });
  return `<ul class="picture-page ${layout}">\n${items.join('\n')}\n</ul>`;
}

/** The title picture, over the whole width; empty: none is wanted, or it is not among them. */
export function coverOf(wish: GalleryWish, pictures: readonly GalleryPicture[]): string {
  const at = wish.cover === 'first' ? 0 : pictures.findIndex(({ id }) => id === wish.cover);
  const picture = wish.cover === null ? undefined : pictures[at];
  if (!picture) return '';
  const whole: Slot = [WHOLE, WHOLE, WHOLE];
  const image = imageOf(picture, stretchesOf('rows', whole), { base: '', alt: altOf(picture, wish, at + 1), loading: 'first' });
  return `<div class="cover">${image}</div>`;
}

const WHOLE = { share: 1, gaps: 0 };

/** Where each picture is found on the page: an address that stays when others are added. */
export function pictureIds(pictures: readonly GalleryPicture[]): Map<GalleryPicture, string> {
  const taken = new Set<string>();
  return new Map(
    pictures.map((picture) => {
      const name = mainFiles(picture)
        .at(-1)!
        .path.split('/')
        .at(-1)!
        .replace(/\.[^.]*$/, '');
      const plain = name.replace(/[^A-Za-z0-9]+/g, '-').replace(/^-|-$/g, '');
      // Files of one name may lie in several folders, and of many scripts no letter is a plain one.
      const id = plain.length < 2 || taken.has(plain) ? `${plain}-${picture.id}` : plain;
      taken.add(id);
      return [picture, `picture-${id}`];
    }),
  );
}

const ratioOf = (picture: Pick<GalleryPicture, 'sources'>): number => {
  const { width, height } = mainFiles(picture).at(-1)!;
  return width / height;
};

interface ImagePlace {
  base: string;
  alt: string;
  loading: 'first' | 'soon' | 'lazy';
}

function imageOf(picture: GalleryPicture, stretches: readonly Stretch[], { base, alt, loading }: ImagePlace): string {
  const main = mainFiles(picture);
  const largest = main.at(-1)!;
  const sources = picture.sources
    .slice(0, -1)
    .map(
      ({ type, files }) =>
        `<source type="${FILE_TYPES[type].mediaType}" srcset="${srcset(files, base)}" sizes="${sizesOf(stretches, files)}">`,
    );
  const own = smallestSufficient(main, 800, 1);
  const background = picture.placeholder ? `;background-image:url('${escapeHtml(picture.placeholder)}')` : '';
  // Of two sizes the sides are rounded each: by its own shape a file would move all that stands below it by a hair when it comes.
  const style = ` style="aspect-ratio:${largest.width}/${largest.height}${background}"`;
  const when = { first: ' fetchpriority="high"', soon: '', lazy: ' loading="lazy"' }[loading];
  const image = `<img src="${pathAddress(own.path, base)}" srcset="${srcset(main, base)}" sizes="${sizesOf(stretches, main)}" width="${largest.width}" height="${largest.height}" alt="${escapeHtml(alt)}"${when} decoding="async"${style}>`;
  return sources.length ? `<picture>${sources.join('')}${image}</picture>` : image;
}

/** What a picture takes of its row, for the style sheet. */
function shares(layout: GalleryLayout, slot: Slot): string {
  if (layout === 'grid') return '';
  const values = slot.map(({ share, gaps }, at) => `--share-${at}:${share};--gaps-${at}:${gaps}`);
  return ` style="${values.join(';')}"`;
}

const srcset = (files: readonly GalleryFile[], base: string): string =>
  files.map(({ path, width }) => `${pathAddress(path, base)} ${width}w`).join(', ');

/** Never empty: the link around it has to have a name. */
const altOf = ({ text: { alt, title, caption } }: GalleryPicture, { language }: GalleryWish, number: number): string =>
  alt ?? title ?? caption ?? galleryWords(language).picture.replace('{n}', String(number));

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
  wish: Pick<GalleryWish, 'layout' | 'chapters' | 'language'>,
  all: readonly GalleryPicture[],
  { windowWidth, density }: { windowWidth: number; density: number },
): number {
  return chaptersOf(all, wish.chapters, wish.language)
    .flatMap(({ pictures }) => {
      const slots = slotsOf(wish.layout, pictures.map(ratioOf));
      return pictures.map(
        ({ sources }, at) =>
          smallestSufficient(sources[0]!.files, slotWidth(stretchesOf(wish.layout, slots[at]!), windowWidth), density).bytes,
      );
    })
    .reduce((sum, bytes) => sum + bytes, 0);
}
