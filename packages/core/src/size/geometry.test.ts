import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { SizeRung } from '../preset/schema';
import { outputGeometry, type PixelSize } from './geometry';

const sized = (size: object, width: number, height: number): PixelSize => outputGeometry(SizeRung.parse(size), { width, height }).output;

describe('worked sizes (common practice, no source)', () => {
  it.each([
    ['3900 x 2925 to 740 wide', { fit: 'width', px: 740 }, 3900, 2925, 740, 555],
    ['box 1024 x 768, landscape', { fit: 'box', width: 1024, height: 768, turn: false }, 6000, 4000, 1024, 683],
    ['box 1024 x 768, upright, not turned', { fit: 'box', width: 1024, height: 768, turn: false }, 4000, 6000, 512, 768],
    ['box 1024 x 768, upright, turned', { fit: 'box', width: 1024, height: 768 }, 4000, 6000, 683, 1024],
    ['1440 wide, 1000 high at most: landscape', { fit: 'box', width: 1440, height: 1000, turn: false }, 6000, 4000, 1440, 960],
    ['1440 wide, 1000 high at most: upright', { fit: 'box', width: 1440, height: 1000, turn: false }, 4000, 6000, 667, 1000],
    ['6 x 4 in at 300 ppi', { fit: 'cover', width: 6, height: 4, unit: 'in', ppi: 300 }, 6000, 4000, 1800, 1200],
    ['6 x 4 in at 200 ppi', { fit: 'cover', width: 6, height: 4, unit: 'in', ppi: 200 }, 6000, 4000, 1200, 800],
    ['long edge 2048, upright', { fit: 'long-edge', px: 2048 }, 4000, 6000, 1365, 2048],
    ['short edge 2000', { fit: 'short-edge', px: 2000 }, 6000, 4000, 3000, 2000],
    ['15 cm at 254 ppi', { fit: 'long-edge', px: 15, unit: 'cm', ppi: 254 }, 6000, 4000, 1500, 1000],
    ['half up: 3 x 2 to 4.5', { fit: 'width', px: 3, enlarge: true }, 2, 3, 3, 5],
    ['panorama to 100', { fit: 'long-edge', px: 100 }, 12000, 30, 100, 1],
    ['25 percent', { fit: 'percent', percent: 25 }, 6000, 4000, 1500, 1000],
    ['2 megapixels', { fit: 'megapixels', megapixels: 2 }, 6000, 4000, 1732, 1155],
    ['stretched', { fit: 'stretch', width: 800, height: 800 }, 6000, 4000, 800, 800],
    ['box open above', { fit: 'box', width: 900, height: null, turn: false }, 4000, 6000, 900, 1350],
  ])('%s', (_what, size, width, height, expectedWidth, expectedHeight) => {
    expect(sized(size, width, height)).toEqual({ width: expectedWidth, height: expectedHeight });
  });

  it('does not enlarge unless asked, and says so', () => {
    const small = { width: 1200, height: 800 };
    expect(outputGeometry(SizeRung.parse({ px: 2048 }), small)).toMatchObject({ output: small, short: true });
    expect(outputGeometry(SizeRung.parse({ px: 2048, enlarge: true }), small)).toMatchObject({
      output: { width: 2048, height: 1365 },
      short: false,
    });
    expect(outputGeometry(SizeRung.parse({ fit: 'cover', width: 1600, height: 1600 }), small).output).toEqual({
      width: 800,
      height: 800,
    });
  });

  it('cuts by the anchor', () => {
    const square = { fit: 'cover', width: 1080, height: 1080 };
    const landscape = { width: 6000, height: 4000 };
    const crop = (anchor: string) => outputGeometry(SizeRung.parse({ ...square, anchor }), landscape).crop;
    expect(crop('centre')).toEqual({ left: 270, top: 0, width: 1080, height: 1080 });
    expect(crop('left')).toMatchObject({ left: 0 });
    expect(crop('right')).toMatchObject({ left: 540 });
  });
});

describe('for every master and length', () => {
  const side = fc.integer({ min: 1, max: 20_000 });
  const fit = fc.constantFrom('long-edge', 'short-edge', 'width', 'height');

  it('keeps the governed edge exact and the aspect ratio within half a pixel', () => {
    fc.assert(
      fc.property(fit, side, side, side, (kind, px, width, height) => {
        const out = sized({ fit: kind, px, enlarge: true }, width, height);
        const upright = height > width;
        const byWidth = kind === 'width' || kind === (upright ? 'short-edge' : 'long-edge');
        const [governed, other, exact] = byWidth
          ? [out.width, out.height, (height * px) / width]
          : [out.height, out.width, (width * px) / height];
        return governed === px && (other === 1 || Math.abs(other - exact) <= 0.5);
      }),
    );
  });

  it('stays inside the box and touches it', () => {
    fc.assert(
      fc.property(side, side, side, side, fc.boolean(), (boxWidth, boxHeight, width, height, turn) => {
        const out = sized({ fit: 'box', width: boxWidth, height: boxHeight, turn, enlarge: true }, width, height);
        const turned = turn && (boxWidth - boxHeight) * (width - height) < 0;
        const [w, h] = turned ? [boxHeight, boxWidth] : [boxWidth, boxHeight];
        return out.width <= w && out.height <= h && (out.width === w || out.height === h);
      }),
    );
  });
});
