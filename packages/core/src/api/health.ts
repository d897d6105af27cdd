import * as z from 'zod';

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
      .array(z.object({ id: z.string(), host: z.string(), beatSecondsAgo: z.number(), well: z.boolean() }))
      .nullable()
      .meta({ description: 'Null while the database is away' }),
    disk: z.object({ freeBytes: z.number().nullable(), well: z.boolean().meta({ description: 'Whether there is room for a set' }) }),
  })
  .meta({ id: 'Health' });
export type Health = z.infer<typeof Health>;
