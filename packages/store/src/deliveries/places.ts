import { join } from 'node:path';
import { QueryTypes } from 'sequelize';
import { type DeliveryWay, type Receiver, receiverInWords } from '@rundle/core';
import type { Database } from '../database/connection';

/** Under which name what lies at a receiver is on record; null: nothing lies anywhere. */
export function placeOf(way: DeliveryWay): string | null {
  switch (way.kind) {
    case 'folder':
      return `folder ${way.path.replace(/(?<=.)\/+$/, '')}`;
    case 'web':
      return `web ${way.receiverId} ${way.folder}`;
    case 'zip':
    case 'mail':
      return null;
  }
}

/** Who or where a delivery goes to, in words. */
export function receiverWords(way: DeliveryWay, receiver: Receiver | null): string {
  switch (way.kind) {
    case 'folder':
      return way.path;
    case 'zip':
      return 'ZIP';
    case 'web':
      return `${receiver ? receiverInWords(receiver) : 'a web space'}${way.folder ? `, folder ${way.folder}` : ''}`;
    case 'mail':
      return way.to.join(', ');
  }
}

/** What is on record to lie at a place. */
export const deliveredTo = ({ sequelize }: Database, place: string): Promise<{ path: string; sha256: string; bytes: number }[]> =>
  sequelize.query('SELECT path, sha256, bytes::float8 AS bytes FROM delivered WHERE place = :place ORDER BY path', {
    type: QueryTypes.SELECT,
    replacements: { place },
  });

/** Below the data folder, where lies what is made for a delivery: pages, messages. It can be made anew. */
export const deliveryFolder = (data: string, deliveryId: string): string => join(data, 'cache/deliveries', deliveryId);

/** Below that, a message that a mail program opens. */
export const messageFile = (folder: string, number: number): string => join(folder, `message-${number}.eml`);
