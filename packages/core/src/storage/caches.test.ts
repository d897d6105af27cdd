import fc from 'fast-check';
import { expect, it } from 'vitest';
import { overBound } from './caches';

const entries = fc.array(fc.record({ bytes: fc.integer({ min: 0, max: 1000 }), usedMs: fc.integer({ min: 0, max: 50 }) }));

it('what goes leaves the rest within the bound, is the least used, and no more than has to', () => {
  fc.assert(
    fc.property(entries, fc.integer({ min: 0, max: 5000 }), (all, bound) => {
      const going = new Set(overBound(all, bound));
      const kept = all.filter((entry) => !going.has(entry));
      const weightOf = (some: Iterable<{ bytes: number }>) => [...some].reduce((sum, { bytes }) => sum + bytes, 0);
      expect(weightOf(kept)).toBeLessThanOrEqual(bound);
      for (const gone of going) for (const one of kept) expect(gone.usedMs).toBeLessThanOrEqual(one.usedMs);
      const last = [...going].at(-1);
      if (last) expect(weightOf(kept) + last.bytes).toBeGreaterThan(bound);
    }),
  );
});
