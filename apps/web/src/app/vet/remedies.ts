import type { Master, Remedy, Treatment } from '@rundle/core';
import type { Edit } from '../set/edits';

/** What a remedy's button says. */
export function remedyLabel(remedy: Remedy, count: number): string {
  const these = count === 1 ? 'this one' : 'these';
  switch (remedy.kind) {
    case 'assume-srgb':
      return `Take ${these} for sRGB`;
    case 'fill-rights':
      return 'Fill in the studio’s details';
    case 'name-studio':
      return 'Write down your name under Studio';
    case 'drop-place':
      return `Let no place of ${these} out`;
    case 'read-again':
      return `Read ${these} again`;
    case 'leave-out':
      return `Leave ${these} out`;
    case 'without':
      return `Make no “${remedy.title}” of ${these}`;
  }
}

/** A remedy that is a decision about pictures, and not something to do. */
export type Decision = Exclude<Remedy, { kind: 'name-studio' | 'read-again' }>;

/** A decision carried out on some pictures, as an edit that can be undone. */
export function remedyEdit(remedy: Decision, masters: readonly Master[], ids: ReadonlySet<string>): Edit {
  const chosen = masters.filter(({ id }) => ids.has(id));
  const label = remedyLabel(remedy, chosen.length);
  if (remedy.kind === 'leave-out')
    return {
      kind: 'marks',
      label,
      before: chosen.map(({ id, choice }) => ({ masterId: id, choice })),
      after: chosen.map(({ id }) => ({ masterId: id, choice: 'out' as const })),
    };
  return {
    kind: 'marks',
    label,
    before: chosen.map(({ id, treatment }) => ({ masterId: id, treatment })),
    after: chosen.map(({ id, treatment }) => ({ masterId: id, treatment: treatmentAfter(remedy, treatment) })),
  };
}

function treatmentAfter(remedy: Exclude<Decision, { kind: 'leave-out' }>, treatment: Treatment): Treatment {
  switch (remedy.kind) {
    case 'assume-srgb':
      return { ...treatment, assumeSrgb: true };
    case 'fill-rights':
      return { ...treatment, fillRights: true };
    case 'drop-place':
      return { ...treatment, dropPlace: true };
    case 'without':
      return { ...treatment, without: [...new Set([...treatment.without, remedy.presetId])] };
  }
}
