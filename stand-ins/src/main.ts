import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import * as z from 'zod';
import { feedApp } from './feed/app';
import { Wall } from './feed/wall';

/*
 * The made-up receivers that ship with Rundle. They answer on this machine only.
 */
for (const signal of ['SIGTERM', 'SIGINT', 'disconnect'] as const) process.once(signal, () => process.exit(0));
const started: { connected?: boolean } = process;
if (started.connected === false) process.exit(0);

const { RUNDLE_DATA, RUNDLE_FEED_PORT } = z
  .object({ RUNDLE_DATA: z.string().min(1), RUNDLE_FEED_PORT: z.coerce.number().int().min(1).max(65_535) })
  .parse(process.env);
const wall = await Wall.open(join(RUNDLE_DATA, 'stand-ins/feed'));
const page = fileURLToPath(new URL('../stand-ins/feed-page', import.meta.url));
const server = feedApp(wall, page).listen(RUNDLE_FEED_PORT, '127.0.0.1', (error) => {
  if (!error) return void process.send?.('ready');
  console.error(`The stand-in feed cannot listen on port ${RUNDLE_FEED_PORT}: ${error.message}`);
  process.exit(1);
});
server.keepAliveTimeout = 65_000;
