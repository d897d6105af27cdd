import { isDeepStrictEqual } from 'node:util';
import { isSameAccount, Receiver } from '@rundle/core';
import { notifyTopic, secretOf, Secrets } from '@rundle/store';
import type { Handlers } from '../http/handlers';
import { requestProblem } from '../http/problem';
import type { Services } from '../services';
import { standIn, standInsView } from './stand-ins';
import { findReceiver, receiverView } from './stored';

export function receiverHandlers({ config, database, trials }: Services) {
  const { receivers, sequelize } = database;
  const secrets = new Secrets(config.data);
  const changed = () => notifyTopic(sequelize, 'receivers');

  return {
    listReceivers: async () => {
      await followStandIns();
      const rows = await receivers.findAll({ where: { deletedAt: null }, order: [['createdAt', 'ASC']] });
      return rows.map(receiverView).sort((a, b) => a.receiver.title.localeCompare(b.receiver.title, 'en'));
    },

    createReceiver: async ({ body: { receiver, secret } }) => {
      const row = receivers.build({ body: receiver });
      if (secret) row.secret = await secrets.encrypt(secret, row.id);
      await row.save();
      await changed();
      return receiverView(row);
    },

    testReceiver: async ({ body: { receiver, secret, receiverId } }) => {
      const stored = receiverId === undefined ? null : await findReceiver(database, receiverId);
      const kept = stored && isSameAccount(Receiver.parse(stored.body), receiver) ? await secretOf(stored, secrets) : '';
      return trials.try(receiver, secret ?? kept);
    },

    listStandIns: () => standInsView(config),

    addStandIn: async ({ body: { kind } }) => {
      const told = await standIn(config, kind);
      if (typeof told === 'string') throw requestProblem('no-delivery', told);
      const own = await receivers.findAll({ where: { deletedAt: null, standIn: true } });
      // Where it is changes with each start: the one that was added is brought up to date.
      const row = own.find(({ body }) => Receiver.parse(body).kind === kind) ?? receivers.build({ body: told.receiver, standIn: true });
      row.set({ body: told.receiver, secret: await secrets.encrypt(told.secret, row.id) });
      await row.save();
      await changed();
      return receiverView(row);
    },

    changeReceiver: async ({ receiverId, body: { receiver, secret } }) => {
      const row = await findReceiver(database, receiverId);
      const kept = isSameAccount(Receiver.parse(row.body), receiver) ? row.secret : null;
      row.set({ body: receiver, standIn: false, secret: secret ? await secrets.encrypt(secret, row.id) : kept });
      await row.save();
      await changed();
      return receiverView(row);
    },

    deleteReceiver: async ({ receiverId }) => {
      const row = await findReceiver(database, receiverId);
      await row.update({ deletedAt: new Date(), secret: null });
      await changed();
    },
  } satisfies Partial<Handlers>;

  /** Made-up receivers come to stand elsewhere when their ports are taken at a start: those that were added follow. */
  async function followStandIns(): Promise<void> {
    for (const row of await receivers.findAll({ where: { deletedAt: null, standIn: true } })) {
      const told = await standIn(config, Receiver.parse(row.body).kind);
      if (typeof told === 'string' || isDeepStrictEqual(Receiver.parse(row.body), told.receiver)) continue;
      await row.update({ body: told.receiver, secret: await secrets.encrypt(told.secret, row.id) });
    }
  }
}
