import { readFile } from 'node:fs/promises';
import { createRequire } from 'node:module';
import { dirname, join } from 'node:path';
import { GALLERY_FACES, GALLERY_FILES, type GalleryFace, galleryScript, galleryStyle, pageStyle } from '@rundle/core';

const packages = createRequire(import.meta.url);
/** Where the package of the viewer lies; its plain script is not among what it exports. */
const viewerFolder = (): string => dirname(dirname(packages.resolve('photoswipe')));

const VIEWER_FILES: Record<(typeof GALLERY_FILES.viewer)[number], string> = {
  'view/photoswipe.css': 'dist/photoswipe.css',
  'view/photoswipe.umd.min.js': 'dist/umd/photoswipe.umd.min.js',
  'view/photoswipe-lightbox.umd.min.js': 'dist/umd/photoswipe-lightbox.umd.min.js',
};

const packageOf = (family: GalleryFace['family']): string => family.toLowerCase().replaceAll(' ', '-');

const faceFile = ({ family, letters }: GalleryFace): string =>
  packages.resolve(`@fontsource/${packageOf(family)}/files/${packageOf(family)}-${letters}-400-normal.woff2`);

/** What every gallery is made of, beside its page and its pictures: path and content. */
export async function galleryParts(): Promise<[string, Buffer | string][]> {
  const faces = await Promise.all(GALLERY_FACES.map(async (face) => ({ face, content: await readFile(faceFile(face)) })));
  const inStyle = new Map(
    faces.flatMap(({ face, content }) => (face.isInStyle ? [[face, `data:font/woff2;base64,${content.toString('base64')}`] as const] : [])),
  );
  const families = [...new Set(GALLERY_FACES.map(({ family }) => family))];
  // The Open Font License asks that it goes along (SIL OFL 1.1, 2).
  const licences = families.map((family) => readFile(packages.resolve(`@fontsource/${packageOf(family)}/LICENSE`), 'utf8'));
  const viewer = viewerFolder();
  const views = Object.entries(VIEWER_FILES).map(async ([path, from]): Promise<[string, Buffer]> => [
    path,
    await readFile(join(viewer, from)),
  ]);
  return [
    ...(await Promise.all(views)),
    ...faces.flatMap(({ face, content }): [string, Buffer][] => (face.isInStyle ? [] : [[face.path, content]])),
    [GALLERY_FILES.licence, (await Promise.all(licences)).join('\n\n')],
    [GALLERY_FILES.pageStyle, pageStyle(inStyle)],
    [GALLERY_FILES.style, galleryStyle()],
    [GALLERY_FILES.script, galleryScript()],
  ];
}
