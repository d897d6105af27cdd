import { describe, expect, it } from 'vitest';
import { parseIccProfile } from './icc-profile';
import { sameSpace, SPACES } from './spaces';

/** Writes a matrix profile by ICC.1: header, tag table, `desc`, three `XYZ ` and one shared `para` curve of type 3. */
function profileOf(primaries: readonly (readonly number[])[], curve: readonly number[], space = 'RGB '): Uint8Array {
  const bytes = new Uint8Array(420);
  const view = new DataView(bytes.buffer);
  const ascii = (at: number, text: string) =>
    bytes.set(
      Uint8Array.from(text, (letter) => letter.charCodeAt(0)),
      at,
    );
  const fixed = (at: number, value: number) => view.setInt32(at, Math.round(value * 65_536));
  ascii(16, space);
  ascii(36, 'acsp');
  const tags: [string, number, number][] = [
    ['desc', 240, 30] as const,
    ['rXYZ', 272, 20] as const,
    ['gXYZ', 292, 20] as const,
    ['bXYZ', 312, 20] as const,
    ...(['rTRC', 'gTRC', 'bTRC'] as const).map((name) => [name, 332, 32] as const),
  ].map(([name, offset, size]) => [name, offset, size]);
  view.setUint32(128, tags.length);
  for (const [index, [name, offset, size]] of tags.entries()) {
    ascii(132 + 12 * index, name);
    view.setUint32(136 + 12 * index, offset);
    view.setUint32(140 + 12 * index, size);
  }
  ascii(240, 'desc');
  view.setUint32(248, 8);
  ascii(252, 'Harbour\0');
  for (let column = 0; column < 3; column++) for (let row = 0; row < 3; row++) fixed(280 + 20 * column + 4 * row, primaries[row]![column]!);
  ascii(332, 'para');
  view.setUint16(340, 3);
  for (const [index, value] of curve.entries()) fixed(344 + 4 * index, value);
  return bytes;
}

const SRGB_CURVE = [2.4, 1 / 1.055, 0.055 / 1.055, 1 / 12.92, 0.04045];

describe('an ICC profile', () => {
  it('gives its name, its matrix and its curves', () => {
    const { space, description, matrix } = parseIccProfile(profileOf(SPACES.srgb.toXyz, SRGB_CURVE));
    expect({ space, description }).toEqual({ space: 'RGB', description: 'Harbour' });
    expect(matrix!.toXyz[1][1]).toBeCloseTo(0.7169, 3);
    expect(sameSpace(matrix!, SPACES.srgb)).toBe(true);
  });

  it('is not taken for sRGB when only its curve differs', () => {
    const { matrix } = parseIccProfile(profileOf(SPACES.srgb.toXyz, [1.8, 1, 0, 1, 0]));
    expect(sameSpace(matrix!, SPACES.srgb)).toBe(false);
  });

  it('without RGB has no matrix', () => {
    expect(parseIccProfile(profileOf(SPACES.srgb.toXyz, SRGB_CURVE, 'CMYK')).matrix).toBeNull();
  });

  it('that is damaged or cut off is refused', () => {
    const whole = profileOf(SPACES.srgb.toXyz, SRGB_CURVE);
    expect(() => parseIccProfile(whole.subarray(0, 300))).toThrow('cut off');
    expect(() => parseIccProfile(whole.subarray(0, 60))).toThrow('damaged');
    expect(() => parseIccProfile(whole.map((byte, at) => (at === 36 ? 0 : byte)))).toThrow('damaged');
  });
});
