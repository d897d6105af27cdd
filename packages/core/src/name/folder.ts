import * as z from 'zod';

const ERROR = 'a folder inside the target such as "web" or "web/large": no leading "/", no "..", no "\\", no empty level';

/** A relative folder, `/` between levels; empty for the target itself. */
export const FolderPath = z.string({ error: ERROR }).max(200, { error: ERROR }).refine(isInside, { error: ERROR });

function isInside(folder: string): boolean {
  if (folder === '') return true;

  return folder.split('/').every((level) => /^[^\u0000-\u001f\u007f<>:"\\|?*]+$/.test(level) && !/^[\s.]|[\s.]$/.test(level));
}
