import { accessSync, constants } from 'node:fs';
import { delimiter, join } from 'node:path';
import { FILE_TYPE_NAMES, FILE_TYPES, type FileTypeName } from '@rundle/core';

/** The path of a program of this machine, or null. */
export function programPath(name: string): string | null {
  for (const folder of (process.env['PATH'] ?? '').split(delimiter)) {
    const path = join(folder, name);
    try {
      accessSync(path, constants.X_OK);
      return path;
    } catch {
      // It may be in the next.
    }
  }
  return null;
}

/** Whether this machine can write a file type. */
export const isWritable = (type: FileTypeName): boolean => (FILE_TYPES[type].needs?.programs ?? []).every((name) => programPath(name));

/** The file types that take programs, and have them on this machine. */
export const typesByPrograms = (): FileTypeName[] => FILE_TYPE_NAMES.filter((type) => FILE_TYPES[type].needs && isWritable(type));
