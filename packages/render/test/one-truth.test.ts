import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import fc from 'fast-check';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { endExifTool } from '../src/read/exiftool';
import { doneOf, folder, preset, testPicture } from './pictures';

afterAll(endExifTool);

/*
 * One master and one preset give one file, byte for byte, whatever else the job makes and whether it was taken up again.
 */

const dir = folder();
const large = join(dir, 'large.jpg');
const small = join(dir, 'small.png');
let calls = 0;

beforeAll(async () => {
  await testPicture(2400, 1600).withIccProfile('p3').jpeg({ quality: 92 }).toFile(large);
  await testPicture(900, 600).png().toFile(small);
});

const Size = fc.record({
  px: fc.integer({ min: 40, max: 2400 }),
  kernel: fc.constantFrom('lanczos3' as const, 'cubic' as const, 'nearest' as const),
  light: fc.constantFrom('encoded' as const, 'linear' as const),
});

const bytesOf = async (master: string, sizes: { px: number }[]): Promise<string[]> => {
  const made = await doneOf(
    master,
    join(dir, String(calls++)),
    sizes.map((size) => preset({ size })),
  );
  return made.map(({ path }) => readFileSync(path).toString('base64'));
};

describe('an output', () => {
  it.each([
    ['a large picture', () => large, 3],
    ['a small one', () => small, 8],
  ])('is the same alone, beside others in any order, and in what is left of a job (%s)', async (_what, master, numRuns) => {
    await fc.assert(
      fc.asyncProperty(fc.array(Size, { minLength: 2, maxLength: 4 }), fc.nat(3), async (sizes, done) => {
        const together = await bytesOf(master(), sizes);
        const left = sizes.filter((_, at) => at !== done % sizes.length);
        expect(await bytesOf(master(), left)).toEqual(together.filter((_, at) => at !== done % sizes.length));
        for (const [at, size] of sizes.entries()) expect(await bytesOf(master(), [size])).toEqual([together[at]]);
      }),
      { numRuns, seed: 10, examples: [[[1500, 1100, 700, 300].map((px) => ({ px, kernel: 'lanczos3', light: 'encoded' })), 0]] },
    );
  });
});
