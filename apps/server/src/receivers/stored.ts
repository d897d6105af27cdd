import { Receiver, type StoredReceiver } from '@rundle/core';
import type { Database, ReceiverRow } from '@rundle/store';
import { notFound } from '../http/problem';

/** Receivers are read through their schema, so that fields of later releases get their defaults. */
export const receiverView = ({ id, body, secret, standIn }: ReceiverRow): StoredReceiver => ({
  id,
  receiver: Receiver.parse(body),
  hasSecret: secret !== null,
  isStandIn: standIn,
});

export async function findReceiver({ receivers }: Pick<Database, 'receivers'>, id: string): Promise<ReceiverRow> {
  const row = await receivers.findOne({ where: { id, deletedAt: null } });
  if (!row) throw notFound('receiver');
  return row;
}
