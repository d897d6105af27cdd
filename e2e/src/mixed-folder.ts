import { mkdirSync, readdirSync, truncateSync, writeFileSync } from 'node:fs';
import { copyFile } from 'node:fs/promises';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import sharp, { type Sharp } from 'sharp';

const BASE = fileURLToPath(new URL('../../demo/base/', import.meta.url));

/** What an ordinary delivery is mixed of; each kind is written by one of these. */
const KINDS: [extension: string, write: (picture: Sharp) => Sharp][] = [
  ['jpg', (picture) => picture.withIccProfile('srgb').jpeg({ quality: 90 })],
  ['jpg', (picture) => picture.withIccProfile('p3').jpeg({ quality: 92 })],
  ['jpg', (picture) => picture.jpeg({ quality: 90 })], // without a profile
  ['jpg', (picture) => picture.withMetadata({ orientation: 6 }).withIccProfile('srgb').jpeg({ quality: 90 })],
  ['png', (picture) => picture.ensureAlpha(0.5).withIccProfile('srgb').png({ compressionLevel: 1 })],
  ['tif', (picture) => picture.toColourspace('rgb16').withIccProfile('srgb').tiff({ compression: 'none' })],
  ['webp', (picture) => picture.withIccProfile('srgb').webp({ effort: 0 })],
  ['jpg', (picture) => picture.toColourspace('cmyk').withIccProfile('cmyk').jpeg({ quality: 90 })],
  ['jpg', (picture) => picture.withIccProfile('srgb').jpeg({ quality: 45 })], // compressed hard before
];

/** How many pictures {@link makeMixedFolder} makes at the top, and in the folder below. */
export const MIXED = { top: 54, below: 6 };

/**
 * Makes a folder as photographers drop it: pictures of many kinds, one cut off, one called what it is not, a text among
 * them, and a folder `later` with more.
 */
export async function makeMixedFolder(folder: string): Promise<void> {
  mkdirSync(join(folder, 'later'), { recursive: true });
  const bases = readdirSync(BASE).sort();
  const make = async (at: number, path: string, write: (picture: Sharp) => Sharp) =>
    // Each another width, so that no two are the same file.
    write(sharp(join(BASE, bases[at % bases.length]!)).resize(1200 + at)).toFile(path);
  for (let at = 0; at < MIXED.top - 2; at++) {
    const [extension, write] = KINDS[at % KINDS.length]!;
    await make(at, join(folder, `boats ${at + 1}.${extension}`), write);
  }
  const png = join(folder, 'really a png.jpg');
  await make(60, png, (picture) => picture.withIccProfile('srgb').png({ compressionLevel: 1 }));
  const cut = join(folder, 'cut off.jpg');
  await copyFile(join(BASE, bases[0]!), cut);
  truncateSync(cut, 60_000);
  for (let at = 0; at < MIXED.below; at++) await make(70 + at, join(folder, 'later', `later ${at + 1}.jpg`), KINDS[0]![1]);
  writeFileSync(join(folder, 'read me.txt'), 'words');
  writeFileSync(join(folder, 'Thumbs.db'), 'nobody’s');
}
