import type { Feed } from '@rundle/core';
import sharp from 'sharp';
import { withoutAsides } from './jpeg';

/** Pictures that a feed takes, by the names that their decoder gives them. */
const TAKEN = ['jpeg', 'png', 'webp'];

/** Why a feed does not take a file, as a sentence. */
export class NotTaken extends Error {}

/**
 * What a feed shows of a picture that is sent to it: a JPEG without metadata and profile, within its size.
 * @throws NotTaken
 */
export async function shownOf(feed: Feed, sent: Buffer): Promise<Buffer> {
  const {
    format,
    width,
    height,
    orientation = 1,
    icc,
  } = await sharp(sent)
    .metadata()
    .catch(() => {
      throw new NotTaken('It cannot be read.');
    });
  if (!TAKEN.includes(format)) throw new NotTaken(`${feed.title} takes JPEG, PNG and WebP; this is ${format.toUpperCase()}.`);
  const fits = Math.max(width, height) <= feed.longEdge && orientation === 1;
  const isConverted = feed.converts && icc !== undefined && !isPlain(icc);
  if (format === 'jpeg' && fits && !isConverted && feed.leaves !== null && sent.length <= feed.leaves) return withoutAsides(sent);
  const opened = sharp(sent, { ignoreIcc: !feed.converts, failOn: 'error' }).autoOrient().flatten({ background: '#ffffff' });
  return opened
    .resize(feed.longEdge, feed.longEdge, { fit: 'inside', withoutEnlargement: true })
    .toColourspace('srgb')
    .jpeg({ quality: feed.quality, chromaSubsampling: feed.chroma })
    .toBuffer()
    .catch(() => {
      throw new NotTaken('It is cut off, or not whole.');
    });
}

/** Whether a profile is called sRGB, so that its colours need no conversion. */
const isPlain = (profile: Buffer): boolean => /s\0?R\0?G\0?B/.test(profile.toString('latin1'));
