import * as z from 'zod';
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

export const FromMachine = z.strictObject({ path: z.string().min(1).max(4096), deeper: z.boolean() }).meta({ id: 'FromMachine' });
export type FromMachine = z.infer<typeof FromMachine>;

/** What came of a folder: how many pictures came in, how many are in the set already, and what is no picture. */
export const FromMachineResult = z.object({ added: z.int(), known: z.int(), refused: z.array(Problem) }).meta({ id: 'FromMachineResult' });
export type FromMachineResult = z.infer<typeof FromMachineResult>;
