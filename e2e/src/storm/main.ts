import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { parseArgs } from 'node:util';
import { load } from './load';
import { loadText, stormText } from './report';
import { storm } from './storm';

/*
 * npm run storm [-- faults] [-- load] [--seed N --faults N --pictures N]: a storm over the whole application, then many clients at a time.
 * Writes its part of docs/storm.md.
 */

const { values, positionals } = parseArgs({
  allowPositionals: true,
  options: { seed: { type: 'string' }, faults: { type: 'string' }, pictures: { type: 'string' }, out: { type: 'string' } },
});
const [seed, faults, pictures] = [Number(values.seed ?? 1), Number(values.faults ?? 100), Number(values.pictures ?? 250)];
const out = values.out ?? 'docs/storm.md';
const say = (line: string) => void process.stdout.write(`${line}\n`);
const HEAD = `# The storm's report

Made by \`npm run storm\`; what it means stands in [reliability.md](reliability.md).
`;

/** Puts a part in the place of its older self. */
function keep(text: string): void {
  const [title = ''] = text.split('\n');
  const before = existsSync(out) ? readFileSync(out, 'utf8') : HEAD;
  const [head = HEAD, ...parts] = before.split(/^(?=## )/m);
  const others = parts.filter((part) => !part.startsWith(title));
  writeFileSync(
    out,
    [head.trimEnd(), ...[...others, text].map((part) => part.trimEnd())].sort((a, b) => rank(a) - rank(b)).join('\n\n') + '\n',
  );
}
const rank = (part: string): number => (part.startsWith('# ') ? 0 : part.startsWith('## Kills') ? 1 : 2);

const wants = (part: string) => positionals.length === 0 || positionals.includes(part);
if (wants('faults')) {
  const report = await storm({
    seed,
    faults,
    pictures,
    longestPauseMs: 60_000,
    calmMs: 1500,
    mostMs: 3 * 3600 * 1000,
    leastFaults: 0,
    say,
  });
  keep(stormText(report, pictures));
  const { lost, doubled, partial, falseFailures, leftOver } = report.damage;
  if (lost + doubled + partial + falseFailures + leftOver > 0 || !report.mastersUntouched || !report.sameFiles || !report.asFresh)
    process.exitCode = 1;
}
if (wants('load')) {
  const report = await load(say);
  keep(loadText(report));
  if (report.errors.length) process.exitCode = 1;
}
