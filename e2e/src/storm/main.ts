import { writeFileSync } from 'node:fs';
import { parseArgs } from 'node:util';
import { describeFault, storm, type StormReport } from './storm';

/*
 * npm run storm [-- --seed N --faults N --pictures N]: a long storm over the whole application. Writes docs/storm.md.
 */

const { values } = parseArgs({
  options: { seed: { type: 'string' }, faults: { type: 'string' }, pictures: { type: 'string' }, out: { type: 'string' } },
});
const seed = Number(values.seed ?? 1);
const faults = Number(values.faults ?? 100);
const pictures = Number(values.pictures ?? 250);
const out = values.out ?? 'docs/storm.md';

const report = await storm({
  ...{ seed, faults, pictures, longestPauseMs: 60_000, calmMs: 1500, mostMs: 3 * 3600 * 1000 },
  say: (line) => void process.stdout.write(`${line}\n`),
});
writeFileSync(out, textOf(report));
const { lost, doubled, partial, falseFailures, leftOver } = report.damage;
process.exitCode = lost + doubled + partial + falseFailures + leftOver === 0 && report.mastersUntouched && report.sameFiles ? 0 : 1;

function textOf({ runs, faults: inflicted, damage, mastersUntouched, sameFiles, seconds }: StormReport): string {
  const kinds = [...new Set(inflicted.map(({ target, pauseMs }) => `${target} ${pauseMs === null ? 'killed' : 'stopped'}`))].sort();
  const rows = kinds.map((kind) => {
    const of = inflicted.filter(({ target, pauseMs }) => `${target} ${pauseMs === null ? 'killed' : 'stopped'}` === kind);
    const times = of.flatMap(({ recoveredMs }) => recoveredMs ?? []).sort((a, b) => a - b);
    const at = (share: number) =>
      times.length ? `${(times[Math.min(times.length - 1, Math.floor(share * times.length))]! / 1000).toFixed(1)} s` : '-';
    return `| ${kind} | ${of.length} | ${of.filter(({ busy }) => busy).length} | ${at(0.5)} | ${at(1)} |`;
  });
  const slow = inflicted.filter(({ recoveredMs }) => (recoveredMs ?? 0) > 15_000);
  return `# The storm's report

Made by \`npm run storm -- --seed ${seed} --faults ${faults} --pictures ${pictures}\` on ${new Date().toISOString().slice(0, 10)}; see [reliability.md](reliability.md).

${inflicted.length} kills and pauses over ${runs} runs of ${pictures} pictures of 2 megapixels by two presets, every second run with three
busy loops beside it; ${Math.round(seconds / 60)} minutes.

| damage                                   | count |
| ---------------------------------------- | ----- |
| outputs lost                             | ${damage.lost} |
| files made twice                         | ${damage.doubled} |
| files not whole, or not what was written down | ${damage.partial} |
| outputs said to have failed              | ${damage.falseFailures} |
| files left over                          | ${damage.leftOver} |
| masters changed                          | ${mastersUntouched ? 0 : 'some'} |
| runs whose files differ from the first's | ${sameFiles ? 0 : 'some'} |

| fault | how often | of these busy | until work went on (median) | at most |
| ----- | --------- | ------------- | --------------------------- | ------- |
${rows.join('\n')}

A pause counts from its end. ${slow.length ? `Longer than 15 s: ${slow.map((fault) => `${describeFault(fault)}: ${((fault.recoveredMs ?? 0) / 1000).toFixed(1)} s`).join('; ')}.` : 'Never longer than 15 s.'}
`;
}
