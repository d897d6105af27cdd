import type { Once } from '../plan/once';
import { FILE_TYPE_LABELS, FILE_TYPES, type FileTypeName } from '../types/table';

/** A file type with a way to keep colour: of each the best quality below a weight is found. */
export interface WeightCandidate {
  /** By which it is known among others. */
  key: string;
  values: Pick<Once, 'type' | 'chroma'>;
  words: string;
}

/** The highest quality that was asked for when it is only the weight that counts: beyond it nothing more is seen. */
export const FINEST = 98;

/**
 * What to try below a weight, the quickest to make first: what browsers show, and the type that the preset has.
 * @param types with loss, that can be written here, @param own the preset's
 */
export function weightCandidates(types: readonly FileTypeName[], own: string): WeightCandidate[] {
  return types
    .filter((type) => type === own || FILE_TYPES[type].inBrowsers !== null)
    .toSorted((a, b) => FILE_TYPES[a].encodeMs - FILE_TYPES[b].encodeMs)
    .flatMap((type): WeightCandidate[] => {
      const { chroma } = FILE_TYPES[type];
      const values = { type: type as NonNullable<Once['type']> };
      const label = FILE_TYPE_LABELS[type];
      if (chroma !== 'sampled' && chroma !== 'smart') return [{ key: type, values, words: label }];
      return [
        { key: `${type} 4:2:0`, values: { ...values, chroma: '4:2:0' }, words: `${label}, colour halved` },
        { key: `${type} 4:4:4`, values: { ...values, chroma: '4:4:4' }, words: `${label}, colour whole` },
      ];
    });
}

/** The best file of a picture below a weight. */
export interface WeighedFile {
  quality: number;
  bytes: number;
  difference: number;
}

/** What came of a candidate over the pictures that were asked about. */
export interface WeightResult {
  key: string;
  files: readonly WeighedFile[];
  /** Pictures of which no quality is so light. */
  tooHeavy: number;
  of: number;
}

/** The largest difference of its files, which is what the setting is judged by; null: not all of them are known, or one is too heavy. */
export function worstDifference({ files, tooHeavy, of }: WeightResult): number | null {
  return tooHeavy === 0 && files.length === of && of > 0 ? Math.max(...files.map(({ difference }) => difference)) : null;
}

/** The setting that looks best: whose worst picture differs least. Null: none is known so far. */
export function bestLooking<T extends WeightResult>(results: readonly T[]): T | null {
  const known = results.flatMap((result) => {
    const worst = worstDifference(result);
    return worst === null ? [] : [{ result, worst }];
  });
  return known.toSorted((a, b) => a.worst - b.worst)[0]?.result ?? null;
}

/** So many pictures stand for a set. */
export const MOST_OF_SET = 12;

/** Pictures that stand for a set, evenly chosen in its order. */
export const standingFor = <T>(all: readonly T[], most = MOST_OF_SET): T[] =>
  all.length <= most ? [...all] : Array.from({ length: most }, (_, at) => all[Math.floor(((at + 0.5) * all.length) / most)]!);
