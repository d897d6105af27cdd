import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { makeMasters } from './make-masters';

const demo = fileURLToPath(new URL('../demo', import.meta.url));
const target = process.argv[2] ?? join(demo, 'masters');
await makeMasters(demo, target, Number(process.argv[3] ?? 1), (line) => process.stdout.write(`${line}\n`));
