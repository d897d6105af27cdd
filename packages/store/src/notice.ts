import type { Sequelize, Transaction } from 'sequelize';
import * as z from 'zod';

/** The channel of PostgreSQL on which programs tell each other what has changed. */
export const CHANNEL = 'rundle_changes';

/** What has changed; ids only, since a notification may hold 8,000 bytes at most. */
export const Notice = z.discriminatedUnion('about', [
  z.object({ about: z.literal('masters'), setId: z.string(), ids: z.array(z.string()) }),
  z.object({ about: z.literal('order'), setId: z.string(), ids: z.array(z.string()) }),
  z.object({ about: z.literal('set'), setId: z.string(), ids: z.array(z.string()) }),
  z.object({ about: z.literal('outputs'), setId: z.string(), ids: z.array(z.string()) }),
  z.object({ about: z.literal('run'), setId: z.string(), ids: z.array(z.string()) }),
  z.object({ about: z.literal('run-cancelled'), setId: z.string(), ids: z.array(z.string()) }),
]);
export type Notice = z.infer<typeof Notice>;

const MOST_IDS = 150;

/** Tells every listening program; inside a transaction, once it is committed. */
export async function notify(sequelize: Sequelize, notice: Notice, transaction?: Transaction): Promise<void> {
  for (let start = 0; start < notice.ids.length; start += MOST_IDS) {
    const part = JSON.stringify({ ...notice, ids: notice.ids.slice(start, start + MOST_IDS) });
    await sequelize.query('SELECT pg_notify(:channel, :part)', {
      replacements: { channel: CHANNEL, part },
      transaction: transaction ?? null,
    });
  }
}
