import type { FilePlace, Problem } from '@rundle/core';
import type { OpenFile } from '@rundle/place';

/** Where an output stands. */
export type OutputPlace = FilePlace;

/** A finished file of one attempt, made on this machine. */
export interface FinishedFile {
  /** Where it lies; see {@link Outputs.workFile}. */
  path: string;
  /** SHA-256 of its bytes. */
  content: string;
}

/**
 * The files of outputs: nothing else touches them. An implementation has to pass test/outputs-contract.ts.
 */
export interface Outputs {
  /**
   * A path on this machine at which one attempt may make the file of one output, until it is released. It is seen by nobody else, and swept
   * when the attempt is over.
   * @param target of the output, on whose disk it will lie
   * @param extension with its dot
   * @throws ProblemError `not-written` when there can be none, or nothing may be written there
   */
  workFile(target: string, outputId: string, attempt: number, extension: string): Promise<string>;

  /** Whether the folder in which such a file is made was deleted meanwhile: what is written there is lost. */
  hasVanished(path: string): Promise<boolean>;

  /** Ends the work on such a file, whatever became of it; what is left of it is deleted, and its path leads nowhere any more. */
  release(path: string): Promise<void>;

  /**
   * Puts a finished file in its place in one step; its path is free afterwards. What stands there with the same content *is*
   * this output: then nothing is written.
   * @param replaces whether another file there may be replaced; if not, it is never touched
   * @param onRecord SHA-256 of what was made there before: only a file with such a content is replaced
   * @returns its mark, by which it is known to be unchanged later; null: somebody may have touched it already
   * @throws ProblemError `exists` when another file stands there, `not-ours` when it is not what was made there, `not-written` when there is no room or no right to write,
   *   {@link AttemptOver} when the finished file has been deleted by a newer attempt
   */
  commit(file: FinishedFile, place: OutputPlace, replaces: boolean, onRecord?: readonly string[]): Promise<string | null>;

  /**
   * Takes a file of ours from its place, to be put elsewhere: it lies among the unfinished files then, and is swept by nobody. What is taken
   * already stays so.
   * @param toTarget the target to which it will go, on whose disk it lies from now on
   * @returns false when there is none there, or when it is not this content any more: then it stays
   * @throws ProblemError `not-written`
   */
  take(place: OutputPlace, outputId: string, content: string, toTarget: string): Promise<boolean>;

  /**
   * Puts a file that was taken in its place.
   * @returns its mark, null: somebody may have touched it already; no answer where there is none that was taken
   * @throws ProblemError `exists` when another file stands there, `not-written`
   */
  putTaken(outputId: string, place: OutputPlace, content: string): Promise<{ mark: string | null } | null>;

  /** Deletes a file that was taken; none is no error. */
  dropTaken(outputId: string, target: string): Promise<void>;

  /** Whether a file with this content stands at a place. */
  holds(place: OutputPlace, content: string): Promise<boolean>;

  /** Deletes unfinished files of older attempts at some outputs, so that they cannot be put in place any more. */
  dropOlder(outputs: readonly { id: string; target: string }[], attempt: number): Promise<void>;

  /**
   * Deletes unfinished files.
   * @param targets folders of the machine in which there may be some
   * @param isOpen whether an attempt at an output still goes on
   * @returns how many
   */
  sweep(targets: readonly string[], isOpen: (outputIds: readonly string[]) => Promise<ReadonlySet<string>>): Promise<number>;

  /**
   * What stands in some folders of a target: their marks by path, `/` between levels.
   * @param folders below the target; what lies deeper is not looked at
   * @param since how old, in ms, a look may be in a folder in which nothing has come or gone
   */
  standing(target: string, folders: readonly string[], since?: number): Promise<Map<string, string>>;

  /** @returns null when nothing stands there */
  open(place: OutputPlace): Promise<OpenFile | null>;

  /** The folder of a target on this machine; null where there is none that people could open. */
  pathOf(target: string): string | null;

  /** Room that is left for a target, in bytes; null where that cannot be known. */
  freeBytes(target?: string): Promise<number | null>;

  /** Leaves no empty folder for unfinished files behind in folders of the machine. Never to be called for one that a run writes to: it may be about to. */
  tidy(targets: readonly string[]): Promise<void>;

  /** Why nothing may be written to a target, or to a folder of it; null: it may. */
  refusal(target: string, folder?: string): Promise<Problem | null>;

  /** Makes a folder of the machine; one that is there is left as it is. @throws ProblemError where nothing may be written, NodeJS.ErrnoException */
  makeFolder(path: string): Promise<void>;
}

/** The finished file was deleted by a newer attempt, which owns the output now. */
export class AttemptOver extends Error {
  constructor() {
    super('A newer attempt has taken this output over.');
    this.name = 'AttemptOver';
  }
}
