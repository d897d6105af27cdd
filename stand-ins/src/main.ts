import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import * as z from 'zod';
import { startStandIns } from './start';

/*
 * The made-up receivers that ship with Rundle. They answer on this machine only.
 */
for (const signal of ['SIGTERM', 'SIGINT', 'disconnect'] as const) process.once(signal, () => process.exit(0));
const started: { connected?: boolean } = process;
if (started.connected === false) process.exit(0);

const { RUNDLE_DATA } = z.object({ RUNDLE_DATA: z.string().min(1) }).parse(process.env);
await startStandIns(join(RUNDLE_DATA, 'stand-ins'), fileURLToPath(new URL('../stand-ins', import.meta.url)));
process.send?.('ready');
