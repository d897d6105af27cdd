import * as z from 'zod';
import { FILE_TYPE_NAMES } from '../types/table';

/** A type that outputs can have, and whether all workers can write it. */
export const OfferedFileType = z.object({ type: z.enum(FILE_TYPE_NAMES), ready: z.boolean() }).meta({ id: 'OfferedFileType' });
export type OfferedFileType = z.infer<typeof OfferedFileType>;
