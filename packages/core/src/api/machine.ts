import * as z from 'zod';
import { line } from '../preset/fields';
import { Problem } from '../problem';

/** A folder of the machine that runs Rundle, as far as pictures may be brought in from it. */
export const MachineFolder = z
  .object({
    path: z.string().nullable().meta({ description: 'Null: the list of the folders that may be used' }),
    up: z.string().nullable().meta({ description: 'The folder above, where that may be used too' }),
    folders: z.array(z.object({ name: z.string(), path: z.string() })),
    files: z.int().meta({ description: 'Files in it, pictures or not' }),
  })
  .meta({ id: 'MachineFolder' });
export type MachineFolder = z.infer<typeof MachineFolder>;

/** What a folder is chosen for. */
export const FolderUse = z.enum(['reading', 'writing']);
export type FolderUse = z.infer<typeof FolderUse>;

/** A folder that is to be made in another one. */
export const NewFolder = z
  .strictObject({
    path: z.string().min(1).max(4096).meta({ title: 'Folder', description: 'The one that it is made in' }),
    name: line(100, 1)
      .regex(/^(?!\.)[^/\\]*$/, { error: 'a name without "/" and "\\" that does not begin with a dot' })
      .meta({ title: 'Name' }),
  })
  .meta({ id: 'NewFolder' });
export type NewFolder = z.infer<typeof NewFolder>;

export const FromMachine = z
  .strictObject({
    path: z.string().min(1).max(4096),
    deeper: z.boolean(),
    names: z
      .array(z.string().min(1).max(255))
      .min(1)
      .max(5000)
      .optional()
      .meta({ description: 'Only these files of it; all, unless it is said' }),
  })
  .meta({ id: 'FromMachine' });
export type FromMachine = z.infer<typeof FromMachine>;

/** What came of a folder: how many pictures came in, how many are in the set already, and what is no picture. */
export const FromMachineResult = z
  .object({
    added: z.int(),
    known: z.int(),
    refused: z.array(Problem),
    masterIds: z.array(z.uuid()).meta({ description: 'Of those that came in and those that were there' }),
  })
  .meta({ id: 'FromMachineResult' });
export type FromMachineResult = z.infer<typeof FromMachineResult>;
