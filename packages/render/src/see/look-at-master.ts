import { type Cascade, longEdgeSize, type MasterFacts, type Salience, SALIENCE_EDGE, salienceOf, toEightBits } from '@rundle/core';
import { smallPicture } from '../proxy';
import CASCADE from './face-cascade.json';

/**
 * Measures what draws the eye in a master. The same wherever it is asked for, so that the page and the command line propose the same crops.
 * @throws ProblemError when the master cannot be decoded
 */
export async function lookAtMaster(path: string, facts: MasterFacts): Promise<Salience> {
  const { raster } = await smallPicture(path, facts, longEdgeSize(SALIENCE_EDGE, facts));
  const pixels = new Uint8Array(raster.pixels.length);
  toEightBits(raster.pixels, false, pixels);
  return salienceOf({ ...raster, pixels }, CASCADE as unknown as Cascade);
}
