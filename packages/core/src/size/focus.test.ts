import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { recipeText } from '../making/recipe';
import { StudioDetails } from '../metadata/studio';
import { Preset, SizeRung } from '../preset/schema';
import { carriedPreset, NO_DECISIONS } from '../decisions/decisions';
import { outputGeometry } from './geometry';

const side = fc.integer({ min: 20, max: 4000 });
const share = fc.double({ min: 0, max: 1, noNaN: true });

describe('a focus', () => {
  it('lies in what stays, as near to its middle as the picture lets it, whatever the anchor', () => {
    fc.assert(
      fc.property(
        side,
        side,
        side,
        side,
        share,
        share,
        fc.constantFrom('centre', 'top', 'left', 'detail'),
        (width, height, w, h, x, y, anchor) => {
          const size = SizeRung.parse({ fit: 'cover', width: w, height: h, anchor });
          const { crop, scaled, toDetail } = outputGeometry({ ...size, focus: { x, y } }, { width, height });
          expect(toDetail).toBe(false);
          if (!crop) return;
          for (const [at, start, length, whole] of [
            [x, crop.left, crop.width, scaled.width],
            [y, crop.top, crop.height, scaled.height],
          ] as const) {
            expect(start).toBeGreaterThanOrEqual(0);
            expect(start + length).toBeLessThanOrEqual(whole);
            expect(at * whole).toBeGreaterThanOrEqual(start - 1);
            expect(at * whole).toBeLessThanOrEqual(start + length + 1);
            const off = Math.abs(at * whole - (start + length / 2));
            const isFree = start > 0 && start + length < whole;
            if (isFree) expect(off).toBeLessThanOrEqual(0.5 + 1e-9);
          }
        },
      ),
    );
  });

  it('makes exactly the outputs out of date that are cut to fill', () => {
    const recipe = (size: object, focus: { x: number; y: number } | null) =>
      recipeText({
        master: 'm',
        preset: carriedPreset(Preset.parse({ kind: 'rundle.preset', version: 1, title: 'X', size }), null, { ...NO_DECISIONS, focus }),
        studio: StudioDetails.parse({}),
        watermark: null,
      });
    const cover = { fit: 'cover', width: 500, height: 500 };
    expect(recipe(cover, { x: 0.2, y: 0.5 })).not.toBe(recipe(cover, null));
    expect(recipe(cover, { x: 0.2, y: 0.5 })).not.toBe(recipe(cover, { x: 0.3, y: 0.5 }));
    expect(recipe({ px: 900 }, { x: 0.2, y: 0.5 })).toBe(recipe({ px: 900 }, null));
  });
});
