import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { makingOf } from '../making/making';
import { decidedAfter, type DecisionsChange } from '../decisions/change';
import { NO_DECISIONS } from '../decisions/decisions';
import { Preset, type PresetInput } from '../preset/schema';
import { cropOfView, inPicture, inView, placementOfView, ratioFor, ratioName, ratioSize, type View, viewOf, viewOfCrop } from './crop';
import { proposedMiddle, SALIENCE_CELLS, type Salience } from './proposal';

const side = fc.integer({ min: 4, max: 9000 });
const picture = fc.record({ width: side, height: side });
const share = (min: number, max: number) => fc.double({ min, max, noNaN: true });
const angle = fc.oneof(fc.constant(0), share(-45, 45));
const crop = fc.record({ x: share(-1, 1), y: share(-1, 1), w: share(0.001, 2), h: share(0.001, 2), angle });
const ratio = fc.record({ w: fc.integer({ min: 1, max: 20 }), h: fc.integer({ min: 1, max: 20 }) });

const preset = (more: Partial<PresetInput>) => Preset.parse({ kind: 'rundle.preset', version: 1, title: 'X', ...more });
const made = (of: { width: number; height: number; salience?: Salience }, more: Partial<PresetInput>, ...changes: DecisionsChange[]) =>
  makingOf(of, preset(more), null, changes.reduce(decidedAfter, NO_DECISIONS));

/** How far a view reaches beyond the picture, px. */
function beyond({ width, height }: { width: number; height: number }, view: View): number {
  const corners = [0, view.width].flatMap((x) => [0, view.height].map((y) => inPicture(view, { x, y })));
  return Math.max(...corners.flatMap(({ x, y }) => [-x, -y, x - width, y - height]));
}

describe('a crop', () => {
  it('never reaches out of the picture, whatever is asked for, and is whole pixels where it is not turned', () => {
    fc.assert(
      fc.property(picture, crop, (of, asked) => {
        const view = viewOfCrop(of, asked);
        // The one pixel that has to be left of a picture of a few px may stick out of it.
        if (view.width > 1 && view.height > 1) expect(beyond(of, view)).toBeLessThan(1e-6);
        expect([view.width, view.height].every((length) => Number.isInteger(length) && length >= 1)).toBe(true);
        if (asked.angle === 0) expect(Number.isInteger(view.left) && Number.isInteger(view.top)).toBe(true);
      }),
      { numRuns: 500 },
    );
  });

  it('stays what it is when it is written down as shares and read again', () => {
    fc.assert(
      fc.property(picture, crop, (of, asked) => {
        const view = viewOfCrop(of, asked);
        fc.pre(Math.min(view.width, view.height) > 3); // a pixel that has to be there may stick out
        const again = viewOfCrop(of, cropOfView(view, of));
        expect(again).toMatchObject({ width: view.width, height: view.height });
        expect(Math.abs(again.left - view.left) + Math.abs(again.top - view.top)).toBeLessThan(1e-6);
      }),
    );
  });

  it('turns the picture clockwise: a horizon that falls to the left by 3 degrees is level after 3', () => {
    const view = viewOfCrop({ width: 3000, height: 2000 }, { x: 0.1, y: 0.1, w: 0.8, h: 0.8, angle: 3 });
    const slope = -Math.tan((3 * Math.PI) / 180);
    const [left, right] = [-800, 800].map((x) => inView(view, { x: 1500 + x, y: 1000 + slope * x }));
    expect(right!.y).toBeCloseTo(left!.y, 6);
    fc.assert(
      fc.property(picture, crop, share(0, 1), share(0, 1), (of, asked, x, y) => {
        const cut = viewOfCrop(of, asked);
        const back = inView(cut, inPicture(cut, { x: x * cut.width, y: y * cut.height }));
        expect(back.x).toBeCloseTo(x * cut.width, 6);
        expect(back.y).toBeCloseTo(y * cut.height, 6);
      }),
    );
  });

  it('is as large as a preset makes it, and says that it is too small for one', () => {
    const of = { width: 6000, height: 4000 };
    const asked = { crop: { x: 0.25, y: 0.25, w: 0.2, h: 0.5, angle: 0 } };
    expect(made(of, { size: { px: 1000 } }, asked).size).toEqual({ width: 600, height: 1000 });
    expect(made(of, { size: { px: 2048 } }, asked).geometry).toMatchObject({ short: true, output: { width: 1200, height: 2000 } });
    // An untouched copy ignores it; a preset that is not cut has nothing of it in what tells its files apart.
    expect(made(of, { file: { type: 'original' } }, asked)).toEqual(made(of, { file: { type: 'original' } }));
    expect(made(of, {}).preset).toEqual(preset({}));
    expect(made(of, {}, { crop: { x: 0, y: 0, w: 1, h: 1, angle: 0 } }).preset).toEqual(preset({}));
  });
});

describe('a ratio', () => {
  it('has one name in lowest terms, and is turned to the orientation of the picture', () => {
    expect([ratioName({ w: 8, h: 10 }), ratioName({ w: 1.91, h: 1 })]).toEqual(['4:5', '1.91:1']);
    expect(ratioFor({ w: 3, h: 2, turn: true }, { width: 20, height: 30 })).toEqual({ w: 2, h: 3 });
    expect(ratioFor({ w: 3, h: 2, turn: false }, { width: 20, height: 30 })).toEqual({ w: 3, h: 2 });
  });

  it('leaves the largest part of what is used that has it, to a pixel, and never anything outside', () => {
    fc.assert(
      fc.property(picture, fc.option(crop), ratio, fc.option(fc.record({ x: share(0, 1), y: share(0, 1) })), (of, own, { w, h }, focus) => {
        const cut = made(of, { size: { fit: 'original', ratio: { w, h, turn: false } } }, { crop: own, focus });
        const used = viewOf(of, own);
        const view = cut.geometry.view ?? used;
        if (view.width > 1 && view.height > 1) expect(beyond(of, view)).toBeLessThan(1e-6);
        expect(view.width === used.width || view.height === used.height).toBe(true);
        expect(view).toMatchObject(ratioSize({ w, h }, used));
        const off = Math.abs(view.width - (view.height * w) / h);
        if (view.width > 1 && view.height > 1) expect(Math.min(off, Math.abs(view.height - (view.width * h) / w))).toBeLessThanOrEqual(0.5);
        const middle = inView(used, inPicture(view, { x: view.width / 2, y: view.height / 2 }));
        expect(middle.x - view.width / 2).toBeGreaterThan(-1e-6);
        expect(middle.x + view.width / 2).toBeLessThan(used.width + 1e-6);
      }),
      { numRuns: 300 },
    );
  });

  it('is cut where it was placed, else at the focus, else where most is to be seen, else in the middle', () => {
    const of = { width: 3000, height: 2000 };
    const square = { size: { fit: 'original', ratio: { w: 1, h: 1 } } } as const;
    const cells = Array.from({ length: SALIENCE_CELLS ** 2 }, (_, at) => (at % SALIENCE_CELLS > 12 ? 'f' : '1')).join('');
    const salience: Salience = { cells, faces: [] };
    const focus = { focus: { x: 0.1, y: 0.5 } };
    const placed = { ratios: { '1:1': { x: 0.2, y: 0.1, w: 0.5 } } };
    expect(made(of, square)).toMatchObject({ cutBy: 'middle', geometry: { view: { left: 500 } } });
    expect(made({ ...of, salience }, square)).toMatchObject({ cutBy: 'proposed', geometry: { view: { left: 1000 } } });
    expect(made({ ...of, salience }, square, focus)).toMatchObject({ cutBy: 'focus', geometry: { view: { left: 0 } } });
    const hand = made({ ...of, salience }, square, focus, placed);
    expect(hand).toMatchObject({ cutBy: 'placed', geometry: { view: { left: 600, top: 200, width: 1500, height: 1500 } } });
    expect(placementOfView(hand.geometry.view!, of)).toEqual(placed.ratios['1:1']);
    expect(made({ width: 2000, height: 2000 }, square)).toMatchObject({ cutBy: 'whole', geometry: { view: null } });
    // A placement of another ratio says nothing here.
    expect(made(of, square, { ratios: { '4:5': { x: 0, y: 0, w: 0.5 } } }).preset).toEqual(made(of, square).preset);
  });

  it('is proposed so that heads stay whole', () => {
    const of = { width: 3000, height: 2000 };
    const size = { width: 1334, height: 2000 };
    const cells = '1'.repeat(SALIENCE_CELLS ** 2);
    const view = viewOf(of, null);
    for (const x of [0.03, 0.12, 0.3, 0.55, 0.8]) {
      const middle = proposedMiddle(view, of, size, { cells, faces: [{ x, y: 0.3, w: 0.1, h: 0.15 }] }).x;
      expect(middle - size.width / 2).toBeLessThanOrEqual(Math.max(0, (x - 0.03) * of.width));
      expect(middle + size.width / 2).toBeGreaterThanOrEqual(Math.min(of.width, (x + 0.13) * of.width));
    }
  });
});
