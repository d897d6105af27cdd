import { describe, expect, it } from 'vitest';
import { NO_DAMAGE } from '../src/storm/check';
import { storm } from '../src/storm/storm';

describe('a storm', () => {
  it('of most of a minute loses, doubles and spoils nothing, and tells no failure that is none', async () => {
    const said: string[] = [];
    const report = await storm({
      seed: 7,
      faults: 100,
      pictures: 60,
      longestPauseMs: 9000,
      calmMs: 700,
      mostMs: 40_000,
      leastFaults: 4,
      say: (line) => said.push(line),
    });
    expect(report.faults.length).toBeGreaterThanOrEqual(4);
    expect({ damage: report.damage, said }).toEqual({ damage: NO_DAMAGE, said });
    expect([report.mastersUntouched, report.sameFiles, report.asFresh]).toEqual([true, true, true]);
    for (const { recoveredMs } of report.faults) expect(recoveredMs ?? 0).toBeLessThan(60_000);
  });
});
