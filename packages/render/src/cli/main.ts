import { availableParallelism } from 'node:os';
import { RenderPool } from '../pool/pool';
import { parseCall, USAGE } from './call';
import { inspect } from './inspect';
import { planOrRender } from './render';
import { Report } from './report';

const parsed = await parseCall(process.argv.slice(2));
if (!parsed.ok) {
  for (const problem of parsed.problems) Report.problem(problem);
  if (parsed.problems.some(({ code }) => code === 'usage')) process.stderr.write(`\n${USAGE}\n`);
  process.exit(2);
}
const stop = new AbortController();
process.once('SIGINT', () => stop.abort());
process.once('SIGTERM', () => stop.abort());
const pool = new RenderPool(new URL('./render-thread.js', import.meta.url), availableParallelism() + 1);
const { call } = parsed;
process.exitCode = call.command === 'inspect' ? await inspect(call, pool) : await planOrRender(call, pool, stop.signal);
await pool.close();
