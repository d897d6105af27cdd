import { writeFileSync } from 'node:fs';
import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
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

/** Where the feed is found, unless another program is there. */
const PORT = 4830;

const { RUNDLE_DATA } = z.object({ RUNDLE_DATA: z.string().min(1) }).parse(process.env);
const folder = join(RUNDLE_DATA, 'stand-ins/feed');
const wall = await Wall.open(folder);
const page = fileURLToPath(new URL('../stand-ins/feed-page', import.meta.url));

const server = createServer({ keepAliveTimeout: 65_000 }, feedApp(wall, page));
server.once('error', () => server.listen(0, '127.0.0.1'));
server.once('listening', () => {
  // Whoever sends pictures finds it by this, wherever it came to be.
  writeFileSync(join(folder, 'address'), `http://127.0.0.1:${(server.address() as AddressInfo).port}`);
  process.send?.('ready');
});
server.listen(PORT, '127.0.0.1');
