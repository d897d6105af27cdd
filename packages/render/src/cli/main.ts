import { availableParallelism } from 'node:os';
import { OwnThread } from '../pool/own-thread';
import { RenderPool } from '../pool/pool';
import type { Renderer } from '../pool/renderer';
import { type Call, parseCall } from './call';
import { Report } from './report';

const parsed = await parseCall(process.argv.slice(2));
if (!parsed.ok) {
  for (const problem of parsed.problems) Report.problem(problem);
  if (parsed.help) process.stderr.write(`\n${parsed.help}\n`);
  process.exit(2);
}
if (parsed.call === null) {
  process.stdout.write(`${parsed.answer}\n`);
  process.exit(0);
}
const stop = new AbortController();
process.once('SIGINT', () => stop.abort());
process.once('SIGTERM', () => stop.abort());

let renderer: Renderer | null = null;
/** One picture is rendered in this thread: starting another takes longer than it saves. */
const renderers = (pictures: number): Renderer =>
  (renderer ??=
    pictures > 1 ? new RenderPool(new URL('./render-thread.js', import.meta.url), availableParallelism() + 1) : new OwnThread());

async function carryOut(call: Call): Promise<number> {
  switch (call.command) {
    case 'inspect': {
      const { inspect } = await import('./inspect');
      return inspect(call, renderers(1));
    }
    case 'preset-from': {
      const { presetFromFile } = await import('./preset-from');
      return presetFromFile(call);
    }
    case 'sheet': {
      const { sheet } = await import('./sheet');
      return sheet(call, renderers(Infinity), stop.signal);
    }
    case 'verify': {
      const { verify } = await import('./verify');
      return verify(call);
    }
    case 'watch': {
      const { watchFolder } = await import('./watch');
      return watchFolder(call, renderers(Infinity), stop.signal);
    }
    default: {
      const { planOrRender } = await import('./render');
      return planOrRender(call, renderers, stop.signal);
    }
  }
}

process.exitCode = await carryOut(parsed.call);
await (renderer as Renderer | null)?.close();
