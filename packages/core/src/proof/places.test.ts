import { expect, it } from 'vitest';
import type { Raster } from '../raster';
import { findPlaces } from './places';

/** Four quarters: a sky that grows lighter downwards, a checked cloth, strong red, skin. */
function picture(): Raster<Uint8Array> {
  const [width, height] = [240, 160];
  const pixels = new Uint8Array(width * height * 3);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const [right, below] = [x >= 120, y >= 80];
      const colour =
        !right && !below ? [90 + y / 8, 130 + y / 8, 180 + y / 8] : right && !below ? cloth(x, y) : below && !right ? red(x) : skin(x, y);
      pixels.set(colour, 3 * (y * width + x));
    }
  return { width, height, channels: 3, pixels };
}
const cloth = (x: number, y: number) => (((x >> 1) + (y >> 1)) % 2 ? [200, 200, 196] : [40, 44, 40]);
const red = (x: number) => [220, 20 + (x % 5), 24];
// Of the lighter tones of M. Fitzpatrick's scale, from memory.
const skin = (x: number, y: number) => [224 - ((x * 3 + y) % 7), 172 - ((x + y) % 5), 140];

it('finds the sky, the cloth, the strong colour and the skin of a picture', () => {
  const places = findPlaces(picture(), { width: 0.25, height: 0.3 });
  const quarter = (place: { x: number; y: number } | null) => place && [place.x < 0.5 ? 'left' : 'right', place.y < 0.5 ? 'top' : 'bottom'];
  expect(quarter(places.smoothest)).toEqual(['left', 'top']);
  expect(quarter(places.busiest)).toEqual(['right', 'top']);
  expect(quarter(places['most-saturated'])).toEqual(['left', 'bottom']);
  expect(quarter(places.skin)).toEqual(['right', 'bottom']);
});

it('says that there is no skin, and nothing smooth in a blank picture', () => {
  const blank: Raster<Uint8Array> = { width: 50, height: 40, channels: 3, pixels: new Uint8Array(50 * 40 * 3).fill(200) };
  expect(findPlaces(blank, { width: 2, height: 2 })).toMatchObject({ skin: null, smoothest: null, busiest: { x: 0.5, y: 0.5 } });
});
