/**
 * One RGB space to another, pixel by pixel: decoded by tables, multiplied by a matrix, clipped, encoded by a table over
 * the square root of light (which is fine where encoded values are dense). All words are u16.
 * @param tables f32, 65,536 per channel: encoded to linear light
 * @param matrix nine f32, row by row
 * @param encode u16, 65,536: index is the square root of light x 65,535
 * @returns how many pixels lay outside the target before they were clipped
 */
export function convertRgb(from: usize, count: i32, tables: usize, matrix: usize, encode: usize, tolerance: f32, out: usize): i32 {
  const m0 = load<f32>(matrix);
  const m1 = load<f32>(matrix, 4);
  const m2 = load<f32>(matrix, 8);
  const m3 = load<f32>(matrix, 12);
  const m4 = load<f32>(matrix, 16);
  const m5 = load<f32>(matrix, 20);
  const m6 = load<f32>(matrix, 24);
  const m7 = load<f32>(matrix, 28);
  const m8 = load<f32>(matrix, 32);
  const least = -tolerance;
  const most = <f32>1 + tolerance;
  let outside = 0;
  for (let i = 0; i < count; i++) {
    const r = load<f32>(tables + 4 * <usize>load<u16>(from));
    const g = load<f32>(tables + 4 * <usize>load<u16>(from, 2), 262144);
    const b = load<f32>(tables + 4 * <usize>load<u16>(from, 4), 524288);
    const x = m0 * r + m1 * g + m2 * b;
    const y = m3 * r + m4 * g + m5 * b;
    const z = m6 * r + m7 * g + m8 * b;
    if (min(x, min(y, z)) < least || max(x, max(y, z)) > most) outside++;
    store<u16>(out, encoded(x, encode));
    store<u16>(out, encoded(y, encode), 2);
    store<u16>(out, encoded(z, encode), 4);
    from += 6;
    out += 6;
  }
  return outside;
}

function encoded(light: f32, table: usize): u16 {
  const root = sqrt(min(<f32>1, max(<f32>0, light)));
  return load<u16>(table + 2 * <usize>(root * 65535 + <f32>0.5));
}
