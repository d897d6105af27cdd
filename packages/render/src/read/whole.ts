import { basename } from 'node:path';
import type { Problem } from '@rundle/core';
import sharp from 'sharp';
import { MOST_PIXELS, readProblem } from './limits';

/** Pixels of the picture that all of a file is decoded for. */
const SMALL = 64;

/** Why a picture cannot be decoded to its end, such as that it is still being written; null: it can. */
export async function wholeProblem(path: string): Promise<Problem | null> {
  try {
    await sharp(path, { limitInputPixels: MOST_PIXELS }).resize(SMALL, SMALL, { fit: 'inside' }).raw().toBuffer();
    return null;
  } catch (error) {
    return readProblem(error, basename(path));
  }
}
