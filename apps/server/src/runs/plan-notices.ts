import { changesSinceEngine, counted, type Finding, finding, type OutputOf, type PlannedOutput, type StoredPreset } from '@rundle/core';
import type { MadeBefore, Wanted } from './standing';

/** What is to be said once, of a whole plan. */
export const planNotices = (
  outputs: readonly PlannedOutput[],
  presets: readonly StoredPreset[],
  before: MadeBefore,
  wanted: (output: OutputOf) => Wanted,
): Finding[] => [...engineNotices(outputs, (output) => before.earlierEngine(wanted(output))), ...versionNotices(presets, before)];

/** A new engine makes nothing due by itself: what it would make otherwise is offered once, and not said in every cell. */
function engineNotices(outputs: readonly PlannedOutput[], engineOf: (output: OutputOf) => number | null): Finding[] {
  // What is due for another reason says that one, in its cell.
  const again = outputs.filter((output) => output.status === 'planned' && output.stale === 'engine').length;
  const kept = outputs.flatMap((output) => (output.status === 'skipped' ? (engineOf(output) ?? []) : []));
  const notices: Finding[] = [];
  if (again)
    notices.push(
      finding(
        'earlier-engine',
        `${counted(again, 'file')} made by an earlier version of Rundle will be made again: this version makes them slightly differently.`,
      ),
    );
  if (kept.length) {
    const changes = changesSinceEngine(Math.min(...kept)).join(' ');
    const are =
      kept.length === 1
        ? 'was made by an earlier version of Rundle and stays as it is'
        : 'were made by an earlier version of Rundle and stay as they are';
    notices.push(finding('engine-offer', `${counted(kept.length, 'file')} ${are}. What this version does differently: ${changes}`));
  }
  return notices;
}

/** That what is out was made by an earlier version of its preset. */
const versionNotices = (presets: readonly StoredPreset[], before: MadeBefore): Finding[] =>
  presets.flatMap(({ id, version, preset }) => {
    const { files, earliest } = before.ofEarlierVersions(id, version);
    if (files === 0) return [];
    const made = `${counted(files, 'file')} that ${files === 1 ? 'is out was' : 'are out were'}`;
    return [finding('earlier-version', `${preset.title}: ${made} made by version ${earliest}; the preset is at version ${version}.`)];
  });
