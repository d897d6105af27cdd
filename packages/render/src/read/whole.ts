import { basename } from 'node:path';
import { type Problem, ProblemError } from '@rundle/core';
import sharp from 'sharp';
import { OPENERS } from '../types/registry';
import { pageOf } from './decode';
import { lookInside } from './facts';
import { MOST_PIXELS, readProblem } from './limits';

/** Pixels of the picture that all of a file is decoded for. */
const SMALL = 64;

/** Why a picture cannot be decoded to its end, such as that it is still being written; null: it can. */
export async function wholeProblem(path: string): Promise<Problem | null> {
  try {
    const { format, own } = await lookInside(path, basename(path));
    await sharp(await OPENERS[format].input(path), { ...pageOf(own?.page ?? 0), limitInputPixels: MOST_PIXELS })
      .resize(SMALL, SMALL, { fit: 'inside' })
      .raw()
      .toBuffer();
    return null;
  } catch (error) {
    return error instanceof ProblemError ? error.problem : readProblem(error, basename(path));
  }
}
