import * as z from 'zod';
import { FILE_TYPE_NAMES, MASTER_FORMATS } from '../types/table';

/** The health of each part of Rundle, for monitoring. */
export const Health = z
  .object({
    well: z.boolean().meta({ description: 'Whether all of it is well' }),
    database: z.object({ well: z.boolean() }),
    queue: z
      .object({ waiting: z.int().meta({ description: 'Pieces of work that nobody has taken yet' }), underWay: z.int() })
      .nullable()
      .meta({ description: 'Null while the database is away' }),
    workers: z
      .array(
        z.object({
          id: z.string(),
          host: z.string(),
          beatSecondsAgo: z.number(),
          well: z.boolean(),
          reads: z.array(z.enum(MASTER_FORMATS)).meta({ description: 'Types that it can read beside those that all can' }),
          writes: z.array(z.enum(FILE_TYPE_NAMES)).meta({ description: 'Types that it can write beside those that all can' }),
        }),
      )
      .nullable()
      .meta({ description: 'Null while the database is away' }),
    disk: z.object({ freeBytes: z.number().nullable(), well: z.boolean().meta({ description: 'Whether there is room for a set' }) }),
  })
  .meta({ id: 'Health' });
export type Health = z.infer<typeof Health>;
