import type { GalleryWish } from './wish';

/** Where the page finds what it is made of, from its own folder. */
export const GALLERY_FILES = {
  page: 'index.html',
  pageStyle: 'view/page.css',
  style: 'view/gallery.css',
  script: 'view/gallery.js',
  viewer: ['view/photoswipe.css', 'view/photoswipe.umd.min.js', 'view/photoswipe-lightbox.umd.min.js'],
  licence: 'view/typefaces.txt',
  /** All pictures at once, where that is offered. */
  zip: 'pictures.zip',
} as const;

/** A file of letters: which face, of which part of Unicode. */
export interface GalleryFace {
  path: string;
  family: 'Source Serif 4' | 'Source Sans 3';
  letters: 'latin' | 'latin-ext';
  /** Nearly every page needs it: it is part of the style sheet, so that it is there in the first moment, from disk, too. */
  isInStyle: boolean;
}

const face = (family: GalleryFace['family'], letters: GalleryFace['letters']): GalleryFace => ({
  path: `view/${family.toLowerCase().replaceAll(' ', '-')}-${letters}.woff2`,
  family,
  letters,
  isInStyle: letters === 'latin',
});

/** The faces of type that go with a gallery: one for headings, one for text. */
export const GALLERY_FACES: readonly GalleryFace[] = (['Source Serif 4', 'Source Sans 3'] as const).flatMap((family) => [
  face(family, 'latin'),
  face(family, 'latin-ext'),
]);

/** All that is made for a gallery beside its pictures. */
export const galleryPaths = ({ downloads }: Pick<GalleryWish, 'downloads'>): string[] => {
  const { page, pageStyle, style, script, viewer, licence, zip } = GALLERY_FILES;
  return [
    page,
    pageStyle,
    style,
    script,
    ...viewer,
    ...GALLERY_FACES.flatMap(({ path, isInStyle }) => (isInStyle ? [] : [path])),
    licence,
    ...(downloads === 'all' ? [zip] : []),
  ];
};
