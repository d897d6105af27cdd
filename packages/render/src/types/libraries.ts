import { createRequire } from 'node:module';
import type * as Koffi from 'koffi';

/*
 * Debian's own libraries, called straight. A broken file that gets the better of one ends the program that called it.
 */

let isWanted = false;

/** For programs that do nothing but work on pictures, and may end with a broken one. No server calls it. @param may whether they are called from now on */
export function callLibraries(may = true): void {
  isWanted = may;
}

export const callsLibraries = (): boolean => isWanted;

/**
 * @param name of the file, with the number of the version of its interface
 * @throws Error where it is not installed, or cannot be called on this machine
 */
export const libraryOf = (name: string): ReturnType<typeof Koffi.load> =>
  (createRequire(import.meta.url)('koffi') as typeof Koffi).load(name);
