import { createHash } from 'node:crypto';
import { existsSync, readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import type { RunDetail } from '@rundle/core';
import sharp from 'sharp';

/** What a run left, counted: all of it has to be 0. */
export interface Damage {
  /** Outputs that are not there. */
  lost: number;
  /** Files that were made twice. */
  doubled: number;
  /** Files that cannot be decoded to their end, or are not what was written down. */
  partial: number;
  /** Outputs that are said to have failed. */
  falseFailures: number;
  /** Files that nobody speaks of. */
  leftOver: number;
}

export const NO_DAMAGE: Damage = { lost: 0, doubled: 0, partial: 0, falseFailures: 0, leftOver: 0 };

export const added = (a: Damage, b: Damage): Damage => ({
  lost: a.lost + b.lost,
  doubled: a.doubled + b.doubled,
  partial: a.partial + b.partial,
  falseFailures: a.falseFailures + b.falseFailures,
  leftOver: a.leftOver + b.leftOver,
});

/**
 * Holds what a run says against what lies in its folders.
 * @param target folder of the set's outputs
 * @param folders those of this run
 * @param expected how many outputs there should be
 */
export async function damageOf(run: RunDetail, target: string, folders: readonly string[], expected: number): Promise<Damage> {
  const standing = new Set(
    folders.flatMap((folder) =>
      existsSync(join(target, folder)) ? readdirSync(join(target, folder)).map((name) => `${folder}/${name}`) : [],
    ),
  );
  const done = run.outputs.filter(({ state }) => state === 'done');
  const damage = { ...NO_DAMAGE, falseFailures: run.outputs.filter(({ state }) => state === 'failed').length };
  for (const { folder, fileName, bytes, width } of done) {
    const path = `${folder}/${fileName}`;
    if (!standing.delete(path)) {
      damage.lost++;
      continue;
    }
    const content = readFileSync(join(target, path));
    const whole = await sharp(content, { failOn: 'warning' })
      .raw()
      .toBuffer({ resolveWithObject: true })
      .then(({ info }) => info.width === width)
      .catch(() => false);
    if (!whole || content.length !== bytes) damage.partial++;
  }
  damage.lost += expected - run.outputs.length;
  damage.doubled = [...standing].filter((path) => /-\d+\.jpg$/.test(path)).length;
  damage.leftOver = standing.size - damage.doubled;
  return damage;
}

/** Contents of all files of a run, by name: the same whatever was done to the application meanwhile. */
export function contentsOf(target: string, folder: string): Map<string, string> {
  return new Map(
    readdirSync(join(target, folder)).map((name) => [
      name,
      createHash('sha256')
        .update(readFileSync(join(target, folder, name)))
        .digest('hex'),
    ]),
  );
}
