import { type Topic, TOPICS } from '@rundle/core';
import type { Sequelize, Transaction } from 'sequelize';
import * as z from 'zod';

/** The channel of PostgreSQL on which programs tell each other what has changed. */
export const CHANNEL = 'rundle_changes';

/** What has changed; ids only, since a notification may hold 8,000 bytes at most. */
export const Notice = z.discriminatedUnion('about', [
  z.object({ about: z.literal('masters'), setId: z.string(), ids: z.array(z.string()) }),
  z.object({ about: z.literal('order'), setId: z.string(), ids: z.array(z.string()) }),
  z.object({ about: z.literal('set'), setId: z.string(), ids: z.array(z.string()) }),
  z.object({ about: z.literal('weighed'), setId: z.string(), ids: z.array(z.string()) }),
  z.object({ about: z.literal('outputs'), setId: z.string(), ids: z.array(z.string()) }),
  z.object({ about: z.literal('run'), setId: z.string(), ids: z.array(z.string()) }),
  z.object({ about: z.literal('run-stopped'), setId: z.string(), ids: z.array(z.string()) }),
  z.object({ about: z.literal('topic'), topic: z.enum(TOPICS) }),
]);
export type Notice = z.infer<typeof Notice>;

const MOST_IDS = 150;

/** Tells every listening program; inside a transaction, once it is committed. */
export async function notify(sequelize: Sequelize, notice: Exclude<Notice, { about: 'topic' }>, transaction?: Transaction): Promise<void> {
  for (let start = 0; start < notice.ids.length; start += MOST_IDS) {
    await send(sequelize, { ...notice, ids: notice.ids.slice(start, start + MOST_IDS) }, transaction);
  }
}

/** Tells every listening program that a list has changed that all sets share; inside a transaction, once it is committed. */
export const notifyTopic = (sequelize: Sequelize, topic: Topic, transaction?: Transaction): Promise<void> =>
  send(sequelize, { about: 'topic', topic }, transaction);

/** Tells a notice within another statement of SQL; the replacements are {@link toldAs}. */
export const TELL = 'pg_notify(:channel, :notice)';

export const toldAs = (notice: Notice): { channel: string; notice: string } => ({ channel: CHANNEL, notice: JSON.stringify(notice) });

async function send(sequelize: Sequelize, notice: Notice, transaction?: Transaction): Promise<void> {
  await sequelize.query(`SELECT ${TELL}`, { replacements: toldAs(notice), transaction: transaction ?? null });
}
