import { type Kind, type LoadReport, p95 } from './load';
import { describeFault, type StormReport } from './storm';

const nameOf = ({ target, pauseMs }: StormReport['faults'][number]) => `${target} ${pauseMs === null ? 'killed' : 'stopped'}`;

/** What a storm did and what it left, for docs/storm.md. @param call the command that makes it */
export function stormText({ runs, faults, damage, mastersUntouched, sameFiles, asFresh, seconds }: StormReport, pictures: number): string {
  const rows = [...new Set(faults.map(nameOf))].sort().map((name) => {
    const of = faults.filter((fault) => nameOf(fault) === name);
    const times = of.flatMap(({ recoveredMs }) => recoveredMs ?? []).sort((a, b) => a - b);
    const at = (share: number) =>
      times.length ? `${(times[Math.min(times.length - 1, Math.floor(share * times.length))]! / 1000).toFixed(1)} s` : '-';
    return `| ${name} | ${of.length} | ${of.filter(({ busy }) => busy).length} | ${at(0.5)} | ${at(1)} |`;
  });
  const slow = faults.filter(({ recoveredMs }) => (recoveredMs ?? 0) > 15_000);
  const told = slow.map((fault) => `${describeFault(fault)}: ${((fault.recoveredMs ?? 0) / 1000).toFixed(1)} s`).join('; ');
  return `## Kills and pauses

${faults.length} of them over ${runs} runs of ${pictures} pictures of 2 megapixels by two presets, every second run with three busy loops
beside it; ${Math.round(seconds / 60)} minutes.

| damage | count |
| --- | --- |
| outputs lost | ${damage.lost} |
| files made twice | ${damage.doubled} |
| files not whole, or not what was written down | ${damage.partial} |
| outputs said to have failed | ${damage.falseFailures} |
| files left over | ${damage.leftOver} |
| masters changed | ${mastersUntouched ? 0 : 'some'} |
| runs whose files differ from the first's | ${sameFiles ? 0 : 'some'} |
| differences of a set that was changed between its runs (pictures, order, presets, files on the disk) from what a fresh studio makes of it | ${asFresh ? 0 : 'some'} |

| fault | how often | of these busy | until work went on, median | at most |
| --- | --- | --- | --- | --- |
${rows.join('\n')}

A pause counts from its end; \`-\`: the run had ended meanwhile. ${slow.length ? `Longer than 15 s: ${told}.` : 'Never longer than 15 s.'}
`;
}

/** What many clients at a time got, for docs/storm.md. */
export function loadText({ times, errors, memory }: LoadReport): string {
  const goals: Record<Kind, number> = { thumbnail: 150, list: 150, plan: 600, vetting: 600 };
  const rows = (Object.keys(times) as Kind[]).map(
    (kind) => `| ${kind} | ${times[kind].length} | ${p95(times[kind]).toFixed(0)} ms | ${kind === 'vetting' ? '-' : `${goals[kind]} ms`} |`,
  );
  const grown = Math.round(100 * (memory.later / memory.before - 1));
  return `## Many clients

30 clients for a minute on a set of 500 pictures, one call at a time each with 250 ms between; ${errors.length} errors.

| call | how many | 95th percentile | goal |
| --- | --- | --- | --- |
${rows.join('\n')}

Memory of the server: ${memory.before.toFixed(0)} MB before, ${memory.end.toFixed(0)} MB at the end, ${memory.later.toFixed(0)} MB a minute later (${grown >= 0 ? '+' : ''}${grown} %; goal: within 10 %).
`;
}
