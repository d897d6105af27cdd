/*
 * Tone, four pixels at a time: see packages/core/src/tone/apply.ts for the formulas. All words are u16. A vector holds one channel of four pixels. What
 * lies behind the last pixel is read and written as well, up to three pixels, and counts for nothing.
 *
 * `values` are f32 in fours, the fourth of each 0: the first step as three columns of a matrix and what is added; luminance; and, where colours
 * change their chroma, three columns to cone responses, their lightness, three columns back, and the factor of chroma.
 */

/** Bytes of a column. */
const COLUMN = 16;
const ADDED = 3 * COLUMN;
const LUMINANCE = 4 * COLUMN;
const TO_CONES = 5 * COLUMN;
const CONES_LIGHTNESS = 8 * COLUMN;
const FROM_CONES = 9 * COLUMN;
const CHROMA = 12 * COLUMN;
/** Steps of the tables over the square root of light, straight between two values. */
const STEPS: f32 = 8192;

/**
 * Lightness of each pixel after the first step and the curve.
 * @param tables for each channel f32, 65,536: encoded to linear light
 * @param stride bytes from one channel's table to the next; 0: they share one
 * @param curve from the square root of luminance to lightness, 0-65,535
 */
export function toneLightness(from: usize, count: i32, tables: usize, stride: usize, values: usize, curve: usize, out: usize): void {
  const half = f32x4.splat(0.5);
  for (let i = 0; i < count; i += 4) {
    const red = lightOf(from, tables);
    const green = lightOf(from + 2, tables + stride);
    const blue = lightOf(from + 4, tables + 2 * stride);
    const light = weighed(
      f32x4.add(weighed(red, green, blue, values, COLUMN), v128.load32_splat(values, ADDED)),
      f32x4.add(weighed(red, green, blue, values + 4, COLUMN), v128.load32_splat(values, ADDED + 4)),
      f32x4.add(weighed(red, green, blue, values + 8, COLUMN), v128.load32_splat(values, ADDED + 8)),
      values + LUMINANCE,
      4,
    );
    const lightness = i32x4.trunc_sat_f32x4_s(f32x4.add(byRoot(curve, light), half));
    store<u16>(out, i32x4.extract_lane(lightness, 0));
    store<u16>(out, i32x4.extract_lane(lightness, 1), 2);
    store<u16>(out, i32x4.extract_lane(lightness, 2), 4);
    store<u16>(out, i32x4.extract_lane(lightness, 3), 6);
    from += 24;
    out += 8;
  }
}

/**
 * The colours.
 * @param ratios by the square root of luminance, what light is multiplied with
 * @param lightness u16 for each pixel, which then decides instead of the ratios; 0: none
 * @param lights f32, 65,536: luminance of such lightness
 * @param chroma whether colours change their chroma
 * @param encode for each channel u16, 65,536: from the square root of light to encoded values
 * @param encodeStride bytes from one channel's to the next; 0: they share one
 */
export function toneRgb(
  from: usize,
  count: i32,
  tables: usize,
  stride: usize,
  values: usize,
  ratios: usize,
  lightness: usize,
  lights: usize,
  chroma: bool,
  encode: usize,
  encodeStride: usize,
  out: usize,
): void {
  const none = f32x4.splat(0);
  const all = f32x4.splat(1);
  for (let i = 0; i < count; i += 4) {
    const before = lightOf(from, tables);
    const second = lightOf(from + 2, tables + stride);
    const third = lightOf(from + 4, tables + 2 * stride);
    let red = f32x4.add(weighed(before, second, third, values, COLUMN), v128.load32_splat(values, ADDED));
    let green = f32x4.add(weighed(before, second, third, values + 4, COLUMN), v128.load32_splat(values, ADDED + 4));
    let blue = f32x4.add(weighed(before, second, third, values + 8, COLUMN), v128.load32_splat(values, ADDED + 8));
    const light = weighed(red, green, blue, values + LUMINANCE, 4);
    let ratio: v128;
    if (lightness) {
      const wanted = lightOfLightness(lightness, lights);
      ratio = v128.bitselect(f32x4.div(wanted, light), all, f32x4.gt(light, none));
      lightness += 8;
    } else ratio = byRoot(ratios, light);
    red = f32x4.mul(red, ratio);
    green = f32x4.mul(green, ratio);
    blue = f32x4.mul(blue, ratio);
    if (chroma) {
      const long = cubeRoots(weighed(red, green, blue, values + TO_CONES, COLUMN));
      const middle = cubeRoots(weighed(red, green, blue, values + TO_CONES + 4, COLUMN));
      const short = cubeRoots(weighed(red, green, blue, values + TO_CONES + 8, COLUMN));
      const grey = weighed(long, middle, short, values + CONES_LIGHTNESS, 4);
      const factor = v128.load32_splat(values, CHROMA);
      const first = cubed(f32x4.add(grey, f32x4.mul(factor, f32x4.sub(long, grey))));
      const next = cubed(f32x4.add(grey, f32x4.mul(factor, f32x4.sub(middle, grey))));
      const last = cubed(f32x4.add(grey, f32x4.mul(factor, f32x4.sub(short, grey))));
      red = weighed(first, next, last, values + FROM_CONES, COLUMN);
      green = weighed(first, next, last, values + FROM_CONES + 4, COLUMN);
      blue = weighed(first, next, last, values + FROM_CONES + 8, COLUMN);
    }
    const least = f32x4.min(red, f32x4.min(green, blue));
    const most = f32x4.max(red, f32x4.max(green, blue));
    const outside = v128.or(f32x4.lt(least, none), f32x4.gt(most, all));
    if (v128.any_true(outside)) {
      // Towards grey of the same luminance, as far as the space reaches: a channel that is cut by itself would change the hue.
      const grey = f32x4.min(all, f32x4.max(none, weighed(red, green, blue, values + LUMINANCE, 4)));
      const tiny = f32x4.splat(<f32>1e-9);
      const above = f32x4.div(f32x4.sub(all, grey), f32x4.max(f32x4.sub(most, grey), tiny));
      const upper = v128.bitselect(above, all, f32x4.gt(most, all));
      const below = f32x4.div(grey, f32x4.max(f32x4.sub(grey, least), tiny));
      const keep = v128.bitselect(f32x4.min(upper, below), upper, f32x4.lt(least, none));
      red = v128.bitselect(nearGrey(red, grey, keep), red, outside);
      green = v128.bitselect(nearGrey(green, grey, keep), green, outside);
      blue = v128.bitselect(nearGrey(blue, grey, keep), blue, outside);
    }
    storeEncoded(red, encode, out);
    storeEncoded(green, encode + encodeStride, out + 2);
    storeEncoded(blue, encode + 2 * encodeStride, out + 4);
    from += 24;
    out += 24;
  }
}

/** Linear light of one channel. */
function lightOf(from: usize, table: usize): v128 {
  const one = v128.load32_zero(table + 4 * <usize>load<u16>(from));
  const two = v128.load32_lane(table + 4 * <usize>load<u16>(from, 6), one, 1);
  const three = v128.load32_lane(table + 4 * <usize>load<u16>(from, 12), two, 2);
  return v128.load32_lane(table + 4 * <usize>load<u16>(from, 18), three, 3);
}

/** Light by lightness. */
function lightOfLightness(from: usize, table: usize): v128 {
  const one = v128.load32_zero(table + 4 * <usize>load<u16>(from));
  const two = v128.load32_lane(table + 4 * <usize>load<u16>(from, 2), one, 1);
  const three = v128.load32_lane(table + 4 * <usize>load<u16>(from, 4), two, 2);
  return v128.load32_lane(table + 4 * <usize>load<u16>(from, 6), three, 3);
}

/** The sum of three channels, each times its weight. @param step bytes from one weight to the next */
function weighed(red: v128, green: v128, blue: v128, weights: usize, step: usize): v128 {
  const one = f32x4.mul(v128.load32_splat(weights), red);
  const two = f32x4.mul(v128.load32_splat(weights + step), green);
  const three = f32x4.mul(v128.load32_splat(weights + 2 * step), blue);
  return f32x4.add(f32x4.add(one, two), three);
}

function nearGrey(channel: v128, grey: v128, keep: v128): v128 {
  const fitting = f32x4.add(grey, f32x4.mul(keep, f32x4.sub(channel, grey)));
  return f32x4.pmin(f32x4.splat(1), f32x4.pmax(f32x4.splat(0), fitting));
}

/** Writes one channel as encoded values. */
function storeEncoded(channel: v128, encode: usize, out: usize): void {
  const places = i32x4.trunc_sat_f32x4_s(f32x4.add(f32x4.mul(f32x4.sqrt(channel), f32x4.splat(65535)), f32x4.splat(0.5)));
  store<u16>(out, load<u16>(encode + 2 * <usize>i32x4.extract_lane(places, 0)));
  store<u16>(out, load<u16>(encode + 2 * <usize>i32x4.extract_lane(places, 1)), 6);
  store<u16>(out, load<u16>(encode + 2 * <usize>i32x4.extract_lane(places, 2)), 12);
  store<u16>(out, load<u16>(encode + 2 * <usize>i32x4.extract_lane(places, 3)), 18);
}

function cubed(value: v128): v128 {
  return f32x4.mul(f32x4.mul(value, value), value);
}

function nearer(guess: v128, value: v128): v128 {
  const third = cubed(guess);
  const above = f32x4.add(third, f32x4.add(value, value));
  return f32x4.div(f32x4.mul(guess, above), f32x4.add(f32x4.add(third, third), value));
}

/** So small a number counts as 0, and is reckoned with as this: the cubes of yet smaller ones are of the kind that processors are slow with. */
const SMALLEST: f32 = 1e-18;

/** Cube roots: a first guess by the bits of the number, then two steps of Halley. */
function cubeRoots(values: v128): v128 {
  const counts = f32x4.ge(f32x4.abs(values), f32x4.splat(SMALLEST));
  const size = f32x4.pmax(f32x4.splat(SMALLEST), f32x4.abs(values));
  const third = i32x4.trunc_sat_f32x4_s(f32x4.mul(f32x4.convert_i32x4_s(size), f32x4.splat(<f32>0.33333334)));
  const first = i32x4.add(third, i32x4.splat(709921077));
  const root = nearer(nearer(first, size), size);
  return v128.and(counts, v128.or(root, v128.and(values, i32x4.splat(0x80000000))));
}

/** The values of a table over the square root of light, straight between its points; one more stands behind its last. */
function byRoot(table: usize, light: v128): v128 {
  const inside = f32x4.pmin(f32x4.splat(1), f32x4.pmax(f32x4.splat(0), light));
  const places = f32x4.mul(f32x4.sqrt(inside), f32x4.splat(STEPS));
  const whole = i32x4.trunc_sat_f32x4_s(places);
  const one = table + 4 * <usize>i32x4.extract_lane(whole, 0);
  const two = table + 4 * <usize>i32x4.extract_lane(whole, 1);
  const three = table + 4 * <usize>i32x4.extract_lane(whole, 2);
  const four = table + 4 * <usize>i32x4.extract_lane(whole, 3);
  const below = v128.load32_lane(four, v128.load32_lane(three, v128.load32_lane(two, v128.load32_zero(one), 1), 2), 3);
  const above = v128.load32_lane(four + 4, v128.load32_lane(three + 4, v128.load32_lane(two + 4, v128.load32_zero(one + 4), 1), 2), 3);
  return f32x4.add(below, f32x4.mul(f32x4.sub(above, below), f32x4.sub(places, f32x4.convert_i32x4_s(whole))));
}
