import { Receiver } from '@rundle/core';
import * as z from 'zod';
import { tryReceiver } from './try-receiver';

/*
 * Tries one receiver in a process of its own, which whoever started it bounds in time and memory: what answers there may be hostile.
 */
const Order = z.object({ receiver: Receiver, secret: z.string() });

process.once('disconnect', () => process.exit(0));
process.once('message', (message) => {
  const { receiver, secret } = Order.parse(message);
  void tryReceiver(receiver, secret).then((answer) => process.send?.(answer, () => process.exit(0)));
});
