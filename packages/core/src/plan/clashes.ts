import type { NamePart } from '../name/parts';
import type { Preset } from '../preset/schema';
import type { PlannedFile, PlannedOutput } from './plan';

/** Outputs of a preset that would have the name of another, so that the run puts a number behind it. */
export interface NameClash {
  presetId: string;
  outputs: number;
  /** What the first of them gets instead. */
  fileName: string;
  /** What tells them apart: a counter from pictures of one name, the preset's own name from what another preset makes. */
  by: 'counter' | 'preset';
}

const NUMBER_BEHIND = /-\d+(?=\.[^.]*$)/;

/** Where outputs of a plan would have one name, by preset. */
export function nameClashes(outputs: readonly PlannedOutput[]): NameClash[] {
  const planned = outputs.filter((output) => output.status === 'planned');
  const isNumbered = ({ warnings }: PlannedFile) => warnings.some(({ code }) => code === 'same-name');
  if (!planned.some(isNumbered)) return [];
  /** What a preset wanted to call a file. */
  const wanted = (output: PlannedFile) => {
    const { presetId, target, folder, fileName } = output;
    return [presetId, target, folder, isNumbered(output) ? fileName.replace(NUMBER_BEHIND, '') : fileName].join('\n');
  };
  const times = new Map<string, number>();
  for (const output of planned) times.set(wanted(output), (times.get(wanted(output)) ?? 0) + 1);
  const clashes = new Map<string, NameClash>();
  for (const output of planned.filter(isNumbered)) {
    const { presetId, fileName } = output;
    const isOwn = times.get(wanted(output))! > 1;
    const known = clashes.get(presetId);
    // One of its own is told apart by a counter only; that does for the others, too.
    const by = isOwn || known?.by === 'counter' ? 'counter' : 'preset';
    clashes.set(presetId, { presetId, fileName, ...known, outputs: (known?.outputs ?? 0) + 1, by });
  }
  return [...clashes.values()];
}

/** The same preset with names that cannot clash so: a counter, or its own name, at the end; null: it has that already. */
export function withoutClash(preset: Preset, by: NameClash['by']): Preset | null {
  const { parts } = preset.name;
  if (parts.some(({ part }) => part === by)) return null;
  const added: NamePart = by === 'counter' ? { part: 'counter', start: 1, step: 1, digits: 3 } : { part: 'preset' };
  return { ...preset, name: { ...preset.name, parts: [...parts, { part: 'text', text: '-' }, added] } };
}
