import type { Problem } from '@rundle/core';
import type { OpenFile } from '@rundle/place';

/** What tells where a master's file is: uploaded ones lie in the store, others in their place on the machine. */
export interface MasterPlace {
  fileName: string;
  sha256: string | null;
  sourcePath: string | null;
  sourceMtimeMs: number | null;
  /** As it was when it was read. */
  bytes: number | string;
}

/** A file that has come in whole and lies in the store. */
export interface StoredFile {
  fileName: string;
  sha256: string;
  bytes: number;
}

/** A file of the machine that may become a master: it is a picture, by its first bytes, and here is what tells it from a changed one. */
export interface FoundFile {
  bytes: number;
  mtimeMs: number;
}

/** A master that can be read, by this program and those that it starts. */
export interface BroughtMaster {
  /** Leads to what was opened, whatever is put in its place meanwhile; until it is closed. Says nothing of its name or content. */
  path: string;
  close(): Promise<void>;
}

/** A content in the store. */
export interface StoredContent {
  sha256: string;
  /** False: there is only a small picture of it. */
  isMaster: boolean;
  /** Since when it has lain here, ms. */
  ageMs: number;
  /** The earliest time that its file tells of itself, ms since 1970: its last change, or when it came here. */
  earliestMs: number;
}

/** The files of masters and their small pictures: nothing else touches them, and nobody ever writes to a master. */
export interface Masters {
  /** Folder on this machine in which uploads grow. */
  readonly incoming: string;

  /**
   * Brings a file that has arrived into the store, addressed by its content, when it is a picture. Doing so again is the same.
   * @param path stays until the caller deletes it, so that nothing is lost when something goes wrong before the end
   * @throws ProblemError when it is empty or no picture
   */
  takeIn(path: string, fileName: string): Promise<StoredFile>;

  /** Whether a content is in the store. */
  has(sha256: string): Promise<boolean>;

  /** Brings a file of this machine into the store and leaves it where it is. */
  takeCopy(path: string, fileName: string): Promise<StoredFile>;

  /**
   * Looks into a file of the machine.
   * @returns why it cannot be a master, or what it is now
   */
  look(path: string): Promise<FoundFile | Problem>;

  /** What stands where a master of the machine was found; null: nothing any more. */
  standing(path: string): Promise<FoundFile | null>;

  /**
   * Opens a master as it was when it was brought in, for the engine.
   * @throws ProblemError `missing` or `master-changed`
   */
  bring(master: MasterPlace): Promise<BroughtMaster>;

  /** Opens a master to be read; null when it is not there as it was brought in. */
  open(master: MasterPlace): Promise<OpenFile | null>;

  /**
   * Where the small picture of a content is written on this machine.
   * @param page which one of a file with several, from 2; null: the first
   */
  smallPicturePath(sha256: string, page: number | null): string;
  openSmallPicture(sha256: string, page: number | null): Promise<OpenFile | null>;

  /** Puts an uploaded master into the bin of files; its small pictures, which can be made again, are deleted. */
  discard(sha256: string): Promise<void>;

  /** What lies in the bin of files, with how long it has, in ms. */
  discarded(): Promise<{ sha256: string; ageMs: number }[]>;

  /** Brings a content back from the bin of files. */
  restore(sha256: string): Promise<void>;

  /** Deletes a content from the bin of files, for good. */
  remove(sha256: string): Promise<void>;

  /** Contents of which there is a master or a small picture in the store. */
  list(): Promise<StoredContent[]>;

  /** How much of an upload has come, in bytes; 0: nothing. */
  arrivedBytes(uploadId: string): Promise<number>;

  /** Deletes what lies in the folder of uploads and has not changed for long. @param olderThanMs @returns how many files */
  sweepIncoming(olderThanMs: number): Promise<number>;

  /** Room that is left, in bytes; null where that cannot be known. */
  freeBytes(): Promise<number | null>;
}
