import { randomUUID } from 'node:crypto';
import { copyFile, mkdir, readFile, rename, rm, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import {
  differencePicture,
  FILE_TYPES,
  fineContrast,
  makingBy,
  type FeedTrip,
  type PixelSize,
  planesOf,
  presetAsShown,
  ProblemError,
  type Rgb8,
  visibleDifference,
} from '@rundle/core';
import sharp, { type Metadata } from 'sharp';
import * as z from 'zod';
import type { SampleTask } from './sample';

/** Where a picture is sent: the feed's address, and what its answer may be. */
export interface FeedDoor {
  /** Of the feed itself, as http://127.0.0.1:4830/feeds/harbour-wall */
  address: string;
  title: string;
}

/** A whole file that has been made. */
export interface MadeFile extends PixelSize {
  path: string;
  bytes: number;
}

/** How pictures are made of a task. */
export interface Makes {
  /** The whole file, which stays until the next is made. */
  file: (task: SampleTask) => Promise<MadeFile>;
  /** All of the output before it is encoded, as PNG. */
  picture: (task: SampleTask, size: PixelSize) => Promise<Buffer>;
}

/** How long a feed may take over one picture, ms. */
const PATIENCE = 60_000;

const Taken = z.object({ picture: z.string().startsWith('/') });
const Refused = z.object({ message: z.string() });

/**
 * Sends the file of a preset to a feed, fetches what that shows, and holds it against the picture that the same preset makes at the very size
 * that is shown, not encoded: so that settings can be compared by what is left in the end.
 * @param folder gets `before`, `after` and `difference`, named by their types, and `trip.json`; whole or not at all
 * @throws ProblemError when the feed does not take it, or does not answer
 */
export async function throughFeed(
  task: SampleTask,
  door: FeedDoor,
  id: string,
  folder: string,
  makes: Makes,
  signal: AbortSignal,
): Promise<FeedTrip> {
  const aside = `${folder}.${randomUUID()}`;
  await mkdir(aside, { recursive: true, mode: 0o700 });
  try {
    const { mediaType, extension } = FILE_TYPES[task.making.preset.file.type];
    const sent = await makes.file(task);
    const was = await readFile(sent.path);
    const after = await shownOf(door, was, mediaType, signal);
    const size = (await sharp(after).metadata()) as PixelSize;
    const isSize = size.width === sent.width && size.height === sent.height;
    const asShown = isSize ? task : { ...task, making: makingBy(task.facts, presetAsShown(task.making.preset, sent, size)) };
    const before = isSize ? sent : await makes.file(asShown);
    const [rgbBefore, rgbAfter] = [await decoded(before.path), await decoded(after)];
    const isSame = isSize && Buffer.from(rgbBefore.pixels).equals(rgbAfter.pixels);
    const [wanted, got] = [planesOf(await decoded(await makes.picture(asShown, size))), planesOf(rgbAfter)];
    const own = fineContrast(wanted[0]);
    const trip: FeedTrip = {
      id,
      sent: { width: sent.width, height: sent.height, bytes: sent.bytes },
      shown: { width: size.width, height: size.height, bytes: after.length },
      deed: isSame ? 'left' : isSize ? 'compressed' : 'shrunk',
      fineContrast: own === 0 ? 1 : fineContrast(got[0]) / own,
      difference: visibleDifference(wanted, got).difference,
      lost: await lostOf(was, after),
    };
    await copyFile(before.path, join(aside, `before.${extension}`));
    await writeFile(join(aside, 'after.jpg'), after);
    const raw = { width: size.width, height: size.height, channels: 3 as const };
    await sharp(differencePicture(rgbBefore, rgbAfter), { raw }).webp({ lossless: true, effort: 0 }).toFile(join(aside, 'difference.webp'));
    await writeFile(join(aside, 'trip.json'), JSON.stringify(trip));
    signal.throwIfAborted();
    await rm(folder, { recursive: true, force: true });
    await rename(aside, folder);
    return trip;
  } finally {
    await rm(aside, { recursive: true, force: true });
  }
}

/** Sends a file and fetches what the feed shows of it. */
async function shownOf({ address, title }: FeedDoor, file: Uint8Array, mediaType: string, signal: AbortSignal): Promise<Buffer> {
  const within = AbortSignal.any([signal, AbortSignal.timeout(PATIENCE)]);
  const away = (error: unknown): never => {
    signal.throwIfAborted();
    throw new ProblemError({
      code: 'no-feed',
      message: `${title} does not answer (${error instanceof Error ? error.message : String(error)}). Is the stand-in feed running?`,
    });
  };
  const headers = { 'Content-Type': mediaType };
  const answer = await fetch(`${address}/pictures`, { method: 'POST', body: new Uint8Array(file), headers, signal: within }).catch(away);
  const told: unknown = await answer.json().catch(away);
  if (!answer.ok) {
    const refused = Refused.safeParse(told);
    const why = refused.success ? refused.data.message : `It answered ${answer.status}.`;
    throw new ProblemError({ code: 'feed-refused', message: `${title} did not take the file. ${why}` });
  }
  const picture = await fetch(new URL(Taken.parse(told).picture, address), { signal: within }).catch(away);
  if (!picture.ok) return away(new Error(`the picture is not there, ${picture.status}`));
  return Buffer.from(await picture.arrayBuffer().catch(away));
}

/** As a screen shows it: in sRGB by the file's own profile, or taken for sRGB without one. */
async function decoded(file: string | Buffer): Promise<Rgb8> {
  const { data, info } = await sharp(file, { limitInputPixels: false })
    .flatten({ background: '#ffffff' })
    .toColourspace('srgb')
    .raw({ depth: 'uchar' })
    .toBuffer({ resolveWithObject: true });
  const { width, height, channels } = info;
  if (channels === 3) return { width, height, pixels: data };
  const pixels = new Uint8Array(width * height * 3);
  for (let at = 0; at < width * height; at++) pixels.fill(data[at * channels]!, 3 * at, 3 * at + 3);
  return { width, height, pixels };
}

async function lostOf(sent: Buffer, shown: Buffer): Promise<FeedTrip['lost']> {
  const [was, is] = await Promise.all([sharp(sent).metadata(), sharp(shown).metadata()]);
  const has = ({ exif, xmp, iptc }: Metadata) => Boolean(exif ?? xmp ?? iptc);
  return [...(has(was) && !has(is) ? ['metadata' as const] : []), ...(was.icc && !is.icc ? ['profile' as const] : [])];
}
