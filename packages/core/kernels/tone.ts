/*
 * Tone, pixel by pixel: see packages/core/src/tone/apply.ts for the formulas. All words are u16. A pixel's three channels lie in the first lanes of
 * a vector, the fourth is 0.
 *
 * `values` are f32 in fours, the fourth of each 0: the first step as three columns of a matrix and what is added; luminance; and, where colours
 * change their chroma, three columns to cone responses, their lightness, three columns back, and the factor of chroma.
 */

/** Bytes of a column. */
const COLUMN = 16;
/** Steps of the tables over the square root of light, straight between two values. */
const STEPS: f32 = 8192;

/**
 * Lightness of each pixel after the first step and the curve.
 * @param tables for each channel f32, 65,536: encoded to linear light
 * @param stride bytes from one channel's table to the next; 0: they share one
 * @param curve from the square root of luminance to lightness, 0-65,535
 */
export function toneLightness(from: usize, count: i32, tables: usize, stride: usize, values: usize, curve: usize, out: usize): void {
  const red = v128.load(values);
  const green = v128.load(values, COLUMN);
  const blue = v128.load(values, 2 * COLUMN);
  const added = v128.load(values, 3 * COLUMN);
  const luminance = v128.load(values, 4 * COLUMN);
  for (let i = 0; i < count; i++) {
    const light = summed(f32x4.mul(f32x4.add(combined(lightOf(from, tables, stride), red, green, blue), added), luminance));
    store<u16>(out, <u16>(byRoot(curve, light) + <f32>0.5));
    from += 6;
    out += 2;
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
  const red = v128.load(values);
  const green = v128.load(values, COLUMN);
  const blue = v128.load(values, 2 * COLUMN);
  const added = v128.load(values, 3 * COLUMN);
  const luminance = v128.load(values, 4 * COLUMN);
  const none = f32x4.splat(0);
  const all = f32x4.splat(1);
  for (let i = 0; i < count; i++) {
    let pixel = f32x4.add(combined(lightOf(from, tables, stride), red, green, blue), added);
    const light = summed(f32x4.mul(pixel, luminance));
    if (lightness) {
      const own = f32x4.extract_lane(light, 0);
      const wanted = load<f32>(lights + 4 * <usize>load<u16>(lightness + 2 * i));
      pixel = f32x4.mul(pixel, f32x4.splat(own > 0 ? wanted / own : 1));
    } else pixel = f32x4.mul(pixel, f32x4.splat(byRoot(ratios, light)));
    if (chroma) pixel = withChroma(pixel, values);
    if (v128.any_true(v128.or(f32x4.lt(pixel, none), f32x4.gt(pixel, all)))) pixel = within(pixel, luminance);
    const places = i32x4.trunc_sat_f32x4_s(f32x4.add(f32x4.mul(f32x4.sqrt(pixel), f32x4.splat(65535)), f32x4.splat(0.5)));
    store<u16>(out, load<u16>(encode + 2 * <usize>i32x4.extract_lane(places, 0)));
    store<u16>(out, load<u16>(encode + encodeStride + 2 * <usize>i32x4.extract_lane(places, 1)), 2);
    store<u16>(out, load<u16>(encode + 2 * encodeStride + 2 * <usize>i32x4.extract_lane(places, 2)), 4);
    from += 6;
    out += 6;
  }
}

/** Linear light of a pixel. */
function lightOf(from: usize, tables: usize, stride: usize): v128 {
  const red = v128.load32_zero(tables + 4 * <usize>load<u16>(from));
  const two = v128.load32_lane(tables + stride + 4 * <usize>load<u16>(from, 2), red, 1);
  return v128.load32_lane(tables + 2 * stride + 4 * <usize>load<u16>(from, 4), two, 2);
}

/** A matrix of three columns times a pixel. */
function combined(pixel: v128, first: v128, second: v128, third: v128): v128 {
  const one = f32x4.mul(first, v128.shuffle<f32>(pixel, pixel, 0, 0, 0, 0));
  const two = f32x4.mul(second, v128.shuffle<f32>(pixel, pixel, 1, 1, 1, 1));
  const three = f32x4.mul(third, v128.shuffle<f32>(pixel, pixel, 2, 2, 2, 2));
  return f32x4.add(f32x4.add(one, two), three);
}

/** The sum of all lanes, in each of them. */
function summed(lanes: v128): v128 {
  const pairs = f32x4.add(lanes, v128.shuffle<f32>(lanes, lanes, 1, 0, 3, 2));
  return f32x4.add(pairs, v128.shuffle<f32>(pairs, pairs, 2, 3, 0, 1));
}

function withChroma(pixel: v128, values: usize): v128 {
  const cones = cubeRoots(combined(pixel, v128.load(values, 5 * COLUMN), v128.load(values, 6 * COLUMN), v128.load(values, 7 * COLUMN)));
  const grey = summed(f32x4.mul(cones, v128.load(values, 8 * COLUMN)));
  const changed = f32x4.add(grey, f32x4.mul(v128.load(values, 12 * COLUMN), f32x4.sub(cones, grey)));
  const back = f32x4.mul(f32x4.mul(changed, changed), changed);
  return combined(back, v128.load(values, 9 * COLUMN), v128.load(values, 10 * COLUMN), v128.load(values, 11 * COLUMN));
}

/** Towards grey of the same luminance, as far as the space reaches: a channel that is cut by itself would change the hue. */
function within(pixel: v128, luminance: v128): v128 {
  const x = f32x4.extract_lane(pixel, 0);
  const y = f32x4.extract_lane(pixel, 1);
  const z = f32x4.extract_lane(pixel, 2);
  const least = min(x, min(y, z));
  const most = max(x, max(y, z));
  const grey = min<f32>(1, max<f32>(0, f32x4.extract_lane(summed(f32x4.mul(pixel, luminance)), 0)));
  let keep: f32 = 1;
  if (most > 1) keep = (1 - grey) / max<f32>(most - grey, <f32>1e-9);
  if (least < 0) keep = min(keep, grey / max<f32>(grey - least, <f32>1e-9));
  const greys = f32x4.splat(grey);
  const fitting = f32x4.add(greys, f32x4.mul(f32x4.splat(keep), f32x4.sub(pixel, greys)));
  return f32x4.pmin(f32x4.splat(1), f32x4.pmax(f32x4.splat(0), fitting));
}

function nearer(guess: v128, value: v128): v128 {
  const cubed = f32x4.mul(f32x4.mul(guess, guess), guess);
  const above = f32x4.add(cubed, f32x4.add(value, value));
  return f32x4.div(f32x4.mul(guess, above), f32x4.add(f32x4.add(cubed, cubed), value));
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

/** The value of a table over the square root of light, straight between its points; one more stands behind its last. */
function byRoot(table: usize, light: v128): f32 {
  const inside = f32x4.pmin(f32x4.splat(1), f32x4.pmax(f32x4.splat(0), light));
  const place = f32x4.extract_lane(f32x4.sqrt(inside), 0) * STEPS;
  const whole = <i32>place;
  const at = table + 4 * <usize>whole;
  const below = load<f32>(at);
  return below + (load<f32>(at, 4) - below) * (place - <f32>whole);
}
