/*
 * Tone, pixel by pixel: see packages/core/src/tone/apply.ts for the formulas. All words are u16. Tables have 8,193 values of f32 and are read
 * straight between two of them: so small they stay at hand.
 *
 * `values` are f32: 12 of the first step (three rows of a matrix and what is added), 3 of luminance; and, where colours change their chroma,
 * 9 to cone responses, 3 of their lightness, 9 back, and the factor of chroma.
 */

/**
 * Lightness of each pixel after the first step and the curve.
 * @param tables for each channel: encoded to linear light, whose last value is that of 65,536
 * @param stride bytes from one channel's table to the next; 0: they share one
 * @param curve from the square root of luminance to lightness, 0-65,535
 */
export function toneLightness(from: usize, count: i32, tables: usize, stride: usize, values: usize, curve: usize, out: usize): void {
  for (let i = 0; i < count; i++) {
    const light = luminance(from, tables, stride, values);
    store<u16>(out, <u16>(byRoot(curve, light) + <f32>0.5));
    from += 6;
    out += 2;
  }
}

function luminance(from: usize, tables: usize, stride: usize, values: usize): f32 {
  const r = ofWord(tables, load<u16>(from));
  const g = ofWord(tables + stride, load<u16>(from, 2));
  const b = ofWord(tables + 2 * stride, load<u16>(from, 4));
  const x = load<f32>(values) * r + load<f32>(values, 4) * g + load<f32>(values, 8) * b + load<f32>(values, 12);
  const y = load<f32>(values, 16) * r + load<f32>(values, 20) * g + load<f32>(values, 24) * b + load<f32>(values, 28);
  const z = load<f32>(values, 32) * r + load<f32>(values, 36) * g + load<f32>(values, 40) * b + load<f32>(values, 44);
  return load<f32>(values, 48) * x + load<f32>(values, 52) * y + load<f32>(values, 56) * z;
}

/**
 * The colours.
 * @param ratios by the square root of luminance, what light is multiplied with
 * @param lightness u16 for each pixel, which then decides instead of the ratios; 0: none
 * @param lights luminance of such lightness
 * @param chroma whether colours change their chroma
 * @param encode for each channel: from the square root of light to encoded values, 0-65,535
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
  out: usize,
): void {
  const m0 = load<f32>(values);
  const m1 = load<f32>(values, 4);
  const m2 = load<f32>(values, 8);
  const m3 = load<f32>(values, 12);
  const m4 = load<f32>(values, 16);
  const m5 = load<f32>(values, 20);
  const m6 = load<f32>(values, 24);
  const m7 = load<f32>(values, 28);
  const m8 = load<f32>(values, 32);
  const m9 = load<f32>(values, 36);
  const m10 = load<f32>(values, 40);
  const m11 = load<f32>(values, 44);
  const yr = load<f32>(values, 48);
  const yg = load<f32>(values, 52);
  const yb = load<f32>(values, 56);
  for (let i = 0; i < count; i++) {
    const r = ofWord(tables, load<u16>(from));
    const g = ofWord(tables + stride, load<u16>(from, 2));
    const b = ofWord(tables + 2 * stride, load<u16>(from, 4));
    let x = m0 * r + m1 * g + m2 * b + m3;
    let y = m4 * r + m5 * g + m6 * b + m7;
    let z = m8 * r + m9 * g + m10 * b + m11;
    const light = yr * x + yg * y + yb * z;
    let ratio: f32;
    if (lightness) ratio = light > 0 ? ofWord(lights, load<u16>(lightness + 2 * i)) / light : 1;
    else ratio = byRoot(ratios, light);
    x *= ratio;
    y *= ratio;
    z *= ratio;
    if (chroma) {
      const factor = load<f32>(values, 144);
      const l = root(load<f32>(values, 60) * x + load<f32>(values, 64) * y + load<f32>(values, 68) * z);
      const m = root(load<f32>(values, 72) * x + load<f32>(values, 76) * y + load<f32>(values, 80) * z);
      const s = root(load<f32>(values, 84) * x + load<f32>(values, 88) * y + load<f32>(values, 92) * z);
      const grey = load<f32>(values, 96) * l + load<f32>(values, 100) * m + load<f32>(values, 104) * s;
      const l2 = cube(grey + factor * (l - grey));
      const m2 = cube(grey + factor * (m - grey));
      const s2 = cube(grey + factor * (s - grey));
      x = load<f32>(values, 108) * l2 + load<f32>(values, 112) * m2 + load<f32>(values, 116) * s2;
      y = load<f32>(values, 120) * l2 + load<f32>(values, 124) * m2 + load<f32>(values, 128) * s2;
      z = load<f32>(values, 132) * l2 + load<f32>(values, 136) * m2 + load<f32>(values, 140) * s2;
    }
    if (x < 0 || y < 0 || z < 0 || x > 1 || y > 1 || z > 1) {
      const least = min(x, min(y, z));
      const most = max(x, max(y, z));
      // Towards grey of the same luminance, as far as the space reaches: a channel that is cut by itself would change the hue.
      const grey = min<f32>(1, max<f32>(0, yr * x + yg * y + yb * z));
      let keep: f32 = 1;
      if (most > 1) keep = (1 - grey) / max<f32>(most - grey, <f32>1e-9);
      if (least < 0) keep = min(keep, grey / max<f32>(grey - least, <f32>1e-9));
      x = grey + keep * (x - grey);
      y = grey + keep * (y - grey);
      z = grey + keep * (z - grey);
    }
    store<u16>(out, <u16>(byRoot(encode, x) + <f32>0.5));
    store<u16>(out, <u16>(byRoot(encode + stride, y) + <f32>0.5), 2);
    store<u16>(out, <u16>(byRoot(encode + 2 * stride, z) + <f32>0.5), 4);
    from += 6;
    out += 6;
  }
}

function cube(value: f32): f32 {
  return value * value * value;
}

function nearer(guess: f32, value: f32): f32 {
  const cubed = guess * guess * guess;
  return (guess * (cubed + 2 * value)) / (2 * cubed + value);
}

/** The cube root: a first guess by the bits of the number, then two steps of Halley. */
function root(value: f32): f32 {
  const size = abs(value);
  if (size < <f32>1e-18) return 0;
  let guess = reinterpret<f32>(reinterpret<i32>(size) / 3 + 709921077);
  guess = nearer(guess, size);
  guess = nearer(guess, size);
  return value < 0 ? -guess : guess;
}

/** The value of a table of 8,193 at a word, straight between its points. */
function ofWord(table: usize, word: u16): f32 {
  const at = table + 4 * ((<usize>word) >> 3);
  const below = load<f32>(at);
  return below + (load<f32>(at, 4) - below) * <f32>(word & 7) * <f32>0.125;
}

/** The value of a table of 8,193 over the square root of light, straight between its points. Not by min and max, which look at NaN and signed zeros, too. */
function byRoot(table: usize, light: f32): f32 {
  if (light <= 0) return load<f32>(table);
  if (light >= 1) return load<f32>(table, 32768);
  const place = sqrt(light) * 8192;
  const whole = <i32>place;
  const at = table + 4 * <usize>whole;
  const below = load<f32>(at);
  return below + (load<f32>(at, 4) - below) * (place - <f32>whole);
}
