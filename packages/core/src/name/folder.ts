import * as z from 'zod';
import { fileSafe } from './file-safe';

const ERROR = 'a folder inside the target such as "web" or "web/large": no leading "/", no "..", no "\\", no empty level';

/** A relative folder, `/` between levels; empty for the target itself. */
export const FolderPath = z.string({ error: ERROR }).max(200, { error: ERROR }).refine(isInside, { error: ERROR });

/**
 * The folder of a preset as it is made on a disk: each level follows the rules of file names, since what one system takes another
 * refuses. Presets of earlier releases may hold what is no name everywhere, so this is done when it is used.
 */
export const folderSafe = (folder: string): string => folder.split('/').filter(Boolean).map(fileSafe).join('/');

function isInside(folder: string): boolean {
  if (folder === '') return true;

  return folder.split('/').every((level) => /^[^\u0000-\u001f\u007f<>:"\\|?*]+$/.test(level) && !/^[\s.]|[\s.]$/.test(level));
}
