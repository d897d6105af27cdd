import { open } from 'node:fs/promises';
import { ProblemError } from '@rundle/core';
import sharp from 'sharp';
import { exifTool } from '../../read/exiftool';
import { MOST_PIXELS } from '../../read/limits';
import { madeOnce } from '../made-once';
import { type Page, pagesOf, pagesWithin } from '../tiff/pages';
import { type BytesAt, bytesOf, type Opener } from '../type';
import { withOrientation } from './orientation';

/*
 * Raw files are not developed. Most hold the finished picture that the camera made, or an editor; at full size it is as good as any other JPEG.
 */

export const rawOpener: Opener = {
  isOf: ({ format }) => format === 'jpeg',
  inRows: false,
  input: (path) => madeOnce(path, () => embeddedPicture(path)),
};

/** Under these names pictures stand in a file that is no TIFF; which of them is the large one differs from maker to maker. */
const PICTURES = ['JpgFromRaw', 'JpgFromRaw2', 'PreviewImage', 'OtherImage'];
/** Share of the long edge of the raw picture, whose borders cameras cut, that the full size has at least (common practice, no source). */
const FULL_SIZE = 0.9;
/** The longest embedded picture that is looked at, in bytes. */
const MOST_BYTES = 150_000_000;

async function embeddedPicture(path: string): Promise<Buffer> {
  const readArgs = ['-b', '-a', '-G1', '-n', ...PICTURES.map((name) => `-${name}`), '-IFD0:Orientation', '-Composite:ImageSize'];
  const [tags, inside] = await Promise.all([exifTool().readRaw(path, { readArgs }), inDirectories(path)]);
  const named = Object.entries(tags).flatMap(([key, value]) =>
    PICTURES.includes(key.split(':')[1] ?? '') && typeof value === 'string' && value.startsWith('base64:')
      ? [Buffer.from(value.slice('base64:'.length), 'base64')]
      : [],
  );
  const seen = await Promise.all(
    [...inside.pictures, ...named].map(async (bytes) => {
      const header = await sharp(bytes, { limitInputPixels: MOST_PIXELS })
        .metadata()
        .catch(() => null);
      return header?.format === 'jpeg' ? [{ bytes, header, edge: Math.max(header.width, header.height) }] : [];
    }),
  );
  const [largest] = seen.flat().sort((a, b) => b.edge - a.edge);
  const size = tags['Composite:ImageSize'];
  const told = typeof size === 'string' ? size.split(/[ x]/).map(Number) : [];
  const full = Math.max(inside.edge, ...told.filter(Number.isFinite));
  if (!largest) throw refused('no finished picture is in it');
  if (largest.edge < FULL_SIZE * full) throw refused(`the picture in it has only ${largest.header.width} x ${largest.header.height} px`);
  const orientation = Number(tags['IFD0:Orientation'] ?? 1);
  return largest.header.orientation === undefined ? withOrientation(largest.bytes, orientation) : largest.bytes;
}

/** JPEGs that the directories of a TIFF lead to, and the longest edge of its raw data, in px. */
async function inDirectories(path: string): Promise<{ pictures: Buffer[]; edge: number }> {
  const file = await open(path, 'r');
  try {
    const bytesAt = bytesOf(file);
    const pages = await allPages(bytesAt);
    const places = pages.flatMap(({ jpeg }) => (jpeg && jpeg.length > 0 && jpeg.length <= MOST_BYTES ? [jpeg] : []));
    const { size } = await file.stat();
    const pictures: Buffer[] = [];
    for (const { at, length } of places) if (at + length <= size) pictures.push(await bytesAt(at, length));
    return { pictures, edge: Math.max(0, ...pages.filter(isRawData).map(({ width, height }) => Math.max(width, height))) };
  } finally {
    await file.close();
  }
}

const refused = (why: string) =>
  new ProblemError({ code: 'unreadable', message: `A raw file has to be developed first: ${why}. Export it as JPEG or TIFF.` });

/** TIFF/EP and DNG: what photometric interpretations only raw data have. */
const RAW_PHOTOMETRIC = [32_803, 34_892];

/** Whether what begins like a TIFF is a raw file. */
export async function isRawInside(bytesAt: BytesAt): Promise<boolean> {
  // One maker says so behind the header.
  if ((await bytesAt(8, 2)).toString('latin1') === 'CR') return true;
  return (await allPages(bytesAt)).some((page) => page.isDng || isRawData(page));
}

async function allPages(bytesAt: BytesAt): Promise<Page[]> {
  const pages = (await pagesOf(bytesAt)).slice(0, MOST_LOOKED_INTO);
  const within = await Promise.all(pages.map((page) => pagesWithin(page, bytesAt)));
  return [...pages, ...within.flat()];
}

const isRawData = ({ photometric }: Page): boolean => RAW_PHOTOMETRIC.includes(photometric);

/** Pages that are looked at. */
const MOST_LOOKED_INTO = 8;
