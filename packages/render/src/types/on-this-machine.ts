import { accessSync, constants } from 'node:fs';
import { delimiter, join } from 'node:path';
import { FILE_TYPE_NAMES, FILE_TYPES, type FileTypeName, MASTER_FORMATS, MASTER_TYPES, type MasterFormat } from '@rundle/core';

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

/** Whether this machine can read a type of masters. */
export const isReadable = (format: MasterFormat): boolean =>
  (MASTER_TYPES[format].readBy?.programs ?? []).every((name) => programPath(name));

/** The types that take programs, and have them on this machine: what it can do beyond what every one can. */
export const typesByPrograms = (): { reads: MasterFormat[]; writes: FileTypeName[] } => ({
  reads: MASTER_FORMATS.filter((format) => MASTER_TYPES[format].readBy && isReadable(format)),
  writes: FILE_TYPE_NAMES.filter((type) => FILE_TYPES[type].needs && isWritable(type)),
});
