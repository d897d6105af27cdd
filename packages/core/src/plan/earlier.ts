import * as z from 'zod';
import { counted } from '../figures';
import { type OutputOf, outputKey } from '../parts/output-of';
import { type FilePlace, joinPath, placeKey, samePlace } from './file-place';
import type { MadeFile, StaleReason } from './place';
import type { PlannedOutput, PlanRequest } from './plan';

/** What becomes of files whose name or place is not theirs any more. */
export const EarlierFate = z.enum(['go', 'keep']).meta({
  id: 'EarlierFate',
  description:
    'What becomes of unchanged files of an earlier name or place, and of pictures that were removed. go: they get their new name, or are taken away; keep: nothing is taken away, and numbers that were given stay',
});
export type EarlierFate = z.infer<typeof EarlierFate>;

/** The file that was made last of a master by a preset, as nobody has changed it since. */
export interface CurrentFile extends FilePlace {
  /** Whether it is what would be made now. */
  upToDate: boolean;
  /** Why not. */
  stale: StaleReason | null;
  made: MadeFile;
}

/** Whether the current file of an output goes where its newer self belongs. */
export const movesOn = ({ earlier = 'keep', isInRun }: Pick<PlanRequest, 'earlier' | 'isInRun'>, output: OutputOf): boolean =>
  earlier === 'go' && (isInRun?.(output) ?? true);

/** A file that was made in an earlier run and that nobody has changed since. */
export interface EarlierFile extends FilePlace, OutputOf {
  outputId: string;
  /** Whether it is what was made last; copies of before are not. */
  isCurrent: boolean;
  /** Whether its picture is in the set. */
  isInSet: boolean;
}

/** Why a file does not stay where it is. */
type MoveReason = 'renamed' | 'made-anew' | 'removed' | 'not-wanted' | 'copy';

/** What becomes of a file. */
export interface Move {
  file: EarlierFile;
  /** Where it goes; null: it is taken away. */
  to: FilePlace | null;
  /** `first`: before anything is made. `last`: when the run has ended, and, where a newer self takes its place, that has been made. */
  when: 'first' | 'last';
  /** Whether it only goes when the output of its picture and preset has been made. */
  afterSelf: boolean;
  reason: MoveReason;
}

/**
 * What becomes of the files of earlier runs when those at an earlier name or place go. What stays is not told.
 * @param outputs of a plan with the same files, those of the run only
 * @param files of the presets of the run, unchanged
 * @param whole whether the run is for the whole set: then files of pictures that were removed, and copies, go, too
 */
export function movesOf(outputs: readonly PlannedOutput[], files: readonly EarlierFile[], whole: boolean): Move[] {
  const cells = new Map(outputs.map((output) => [outputKey(output), output]));
  const made = new Set(outputs.map(({ masterId, presetId }) => `${masterId} ${presetId}`));
  const wanted = new Set(
    outputs.flatMap((output) => (output.status === 'planned' || output.status === 'skipped' ? [placeKey(output)] : [])),
  );
  const gone = (file: EarlierFile, reason: MoveReason, afterSelf = false): Move => ({
    file,
    to: null,
    when: wanted.has(placeKey(file)) ? 'first' : 'last',
    afterSelf,
    reason,
  });
  return files.flatMap((file): Move[] => {
    if (!file.isCurrent) return whole ? [gone(file, 'copy')] : [];
    const cell = cells.get(outputKey(file));
    // Its preset makes other files of the picture now.
    if (!cell && made.has(`${file.masterId} ${file.presetId}`)) return [gone(file, 'not-wanted')];
    if (!cell) return whole && !file.isInSet ? [gone(file, 'removed')] : [];
    if (cell.status === 'failed') return [];
    if (cell.status === 'not-for') return [gone(file, 'not-wanted')];
    const { target, folder, fileName } = cell;
    const to = { target, folder, fileName };
    if (cell.from === undefined) return samePlace(file, to) ? [] : [gone(file, cell.status === 'planned' ? 'renamed' : 'not-wanted')];
    // A file that is made anew gets its new name at once where it is of the same kind; elsewhere it waits for its newer self.
    if (cell.status === 'skipped' || (file.target === target && extensionOf(file.fileName) === extensionOf(fileName)))
      return [{ file, to, when: 'first', afterSelf: false, reason: 'renamed' }];
    return [gone(file, 'made-anew', true)];
  });
}

const extensionOf = (fileName: string): string => fileName.slice(fileName.lastIndexOf('.') + 1);

/** Files that are told by name. */
const MOST_NAMES = 200;

/** How many files do not stay where they are, by why. */
export const EarlierFiles = z
  .object({
    renamed: z.int().meta({ description: 'Get another name or place' }),
    madeAnew: z.int().meta({ description: 'Are made anew at another name or place, and go then' }),
    removed: z.int().meta({ description: 'Of pictures that were removed' }),
    notWanted: z.int().meta({ description: 'Of pictures of which these presets make nothing any more' }),
    copies: z.int().meta({ description: 'Older copies of files that have been made again since' }),
    names: z
      .array(z.object({ from: z.string(), to: z.string().nullable().meta({ description: 'Null: it is taken away' }) }))
      .meta({ description: `Folder and name of each, ${MOST_NAMES} at most` }),
  })
  .meta({ id: 'EarlierFiles' });
export type EarlierFiles = z.infer<typeof EarlierFiles>;

/** No file has to go anywhere. */
export const NONE_EARLIER: EarlierFiles = { renamed: 0, madeAnew: 0, removed: 0, notWanted: 0, copies: 0, names: [] };

/** How many files do not stay where they are. @param copiesGo whether older copies go, too */
export const movesIn = ({ renamed, madeAnew, removed, notWanted, copies }: EarlierFiles, copiesGo: boolean): number =>
  renamed + madeAnew + removed + notWanted + (copiesGo ? copies : 0);

/** Moves in figures. */
export function earlierFilesOf(moves: readonly Move[]): EarlierFiles {
  const count = (reason: MoveReason) => moves.filter((move) => move.reason === reason).length;
  const inOrder = MOVE_REASONS.flatMap((reason) => moves.filter((move) => move.reason === reason));
  return {
    renamed: count('renamed'),
    madeAnew: count('made-anew'),
    removed: count('removed'),
    notWanted: count('not-wanted'),
    copies: count('copy'),
    names: inOrder.slice(0, MOST_NAMES).map(({ file, to }) => ({
      from: joinPath(file.folder, file.fileName),
      to: to && joinPath(to.folder, to.fileName),
    })),
  };
}

const MOVE_REASONS: readonly MoveReason[] = ['renamed', 'made-anew', 'removed', 'not-wanted', 'copy'];

/**
 * What becomes of earlier files, as one sentence; null: all of them stay where they are.
 * @param copiesGo whether older copies go, too
 */
export function earlierSentence(
  { renamed, madeAnew, removed, notWanted, copies }: EarlierFiles,
  fate: EarlierFate,
  copiesGo = false,
): string | null {
  const parts: string[] = [];
  const say = (count: number, what: string, goes: string, go: string) => {
    if (count)
      parts.push(`${counted(count, 'file')} ${what} ${fate === 'keep' ? (count === 1 ? 'stays' : 'stay') : count === 1 ? goes : go}`);
  };
  say(renamed, 'of an earlier name or place', 'gets its new one', 'get their new one');
  say(madeAnew, 'of an earlier name or place', 'goes when it is made anew', 'go when they are made anew');
  say(removed, removed === 1 ? 'of a picture that was removed' : 'of pictures that were removed', 'goes', 'go');
  say(notWanted, 'that would not be made any more', 'goes', 'go');
  if (copiesGo) say(copies, 'made again since', 'goes', 'go');
  return parts.length ? `${parts.join('; ')}.` : null;
}
