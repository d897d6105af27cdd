import type { Raster } from '../raster';
import type { Geometry } from './geometry';

/** Columns or rows whose detail is measured at once. */
const STEP = 4;

/**
 * Where a crop holds most of the picture's detail: of all places that the crop could take, the one with the largest sum
 * of luma differences between neighbours. Of equal places the one nearest to the centre.
 * @param picture the scaled picture, before the crop
 * @param crop its size in px; one of its edges is that of the picture
 */
export function detailAnchor(picture: Raster<Uint16Array>, crop: NonNullable<Geometry['crop']>): NonNullable<Geometry['crop']> {
  const sideways = picture.width > crop.width;
  const detail = detailProfile(picture, sideways);
  const room = sideways ? picture.width - crop.width : picture.height - crop.height;
  const window = sideways ? crop.width : crop.height;
  let sum = detail.subarray(0, window).reduce((total, value) => total + value, 0);
  let best = { at: 0, sum };
  for (let at = 1; at <= room; at++) {
    sum += detail[at + window - 1]! - detail[at - 1]!;
    const nearer = Math.abs(at - room / 2) < Math.abs(best.at - room / 2);
    if (sum > best.sum * (1 + 1e-9) || (nearer && sum >= best.sum * (1 - 1e-9))) best = { at, sum };
  }
  return sideways ? { ...crop, left: best.at, top: 0 } : { ...crop, left: 0, top: best.at };
}

/** For each column (or row) the sum of absolute differences between a pixel's green and its neighbours'. */
function detailProfile({ width, height, channels, pixels }: Raster<Uint16Array>, byColumn: boolean): Float64Array {
  const profile = new Float64Array(byColumn ? width : height);
  const middle = channels === 1 ? 0 : 1; // Green carries most of luma.
  for (let y = 0; y < height - 1; y += byColumn ? STEP : 1)
    for (let x = 0; x < width - 1; x += byColumn ? 1 : STEP) {
      const at = (y * width + x) * channels + middle;
      const here = pixels[at]!;
      profile[byColumn ? x : y]! += Math.abs(here - pixels[at + channels]!) + Math.abs(here - pixels[at + width * channels]!);
    }
  return profile;
}
