import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { band, gridOf, inBand, step } from './grid';

const GAPS = { gap: 12, rowGap: 16 };
/** Four columns of 200 px, rows of 250 px with 16 px between them. */
const grid = gridOf(836, 134, 100, GAPS);

describe('the contact sheet', () => {
  it('fills its width with columns, and has at least one', () => {
    expect(grid).toEqual({ columns: 4, cardWidth: 200, gap: 12, rowHeight: 250, rowGap: 16 });
    expect(gridOf(90, 320, 100, GAPS)).toMatchObject({ columns: 1, cardWidth: 90 });
    fc.assert(
      fc.property(fc.integer({ min: 300, max: 3000 }), fc.integer({ min: 80, max: 320 }), (width, thumbnail) => {
        const { columns, cardWidth, gap } = gridOf(width, thumbnail, 100, GAPS);
        expect(columns * cardWidth + (columns - 1) * gap).toBeCloseTo(width);
      }),
    );
  });

  it('finds what a rubber band touches, whichever way it is drawn, and nothing between the cards', () => {
    const drawn = (from: [number, number], to: [number, number]) =>
      inBand(band({ x: from[0], y: from[1] }, { x: to[0], y: to[1] }), grid, 10);
    expect(drawn([206, 10], [500, 20])).toEqual([1, 2]);
    expect(drawn([500, 20], [206, 10])).toEqual([1, 2]);
    expect(drawn([206, 10], [210, 600])).toEqual([]);
    expect(drawn([0, 240], [220, 260])).toEqual([4, 5]); // begun between the rows
    expect(drawn([0, 236], [900, 248])).toEqual([]);
    expect(drawn([-50, 400], [2000, 2000])).toEqual([4, 5, 6, 7, 8, 9]);
  });

  it('is walked by arrow keys without leaving it', () => {
    const walk = (from: number, key: string) => step(from, key, 4, 10);
    expect(['ArrowLeft', 'ArrowRight', 'ArrowUp', 'ArrowDown', 'Home', 'End'].map((key) => walk(5, key))).toEqual([4, 6, 1, 9, 0, 9]);
    expect([walk(0, 'ArrowLeft'), walk(2, 'ArrowUp'), walk(9, 'ArrowRight'), walk(7, 'ArrowDown'), walk(3, 'x')]).toEqual([0, 2, 9, 7, 3]);
  });
});
