import { type DecisionsChange, type Master, type Remedy, undoOf } from '@rundle/core';
import type { Edit } from '../set/edits';

/** What a remedy's button says. */
export function remedyLabel(remedy: Remedy, count: number): string {
  const these = count === 1 ? 'this one' : 'these';
  switch (remedy.kind) {
    case 'assume-srgb':
      return `Treat ${these} as sRGB`;
    case 'fill-rights':
      return 'Fill in the studio’s details';
    case 'name-studio':
      return 'Write down your name under Studio';
    case 'drop-place':
      return `Remove the location from ${these}`;
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
  const change = changeOf(remedy);
  return {
    kind: 'marks',
    label,
    before: chosen.map(({ id, overrides }) => ({ masterId: id, overrides: undoOf(overrides, change) })),
    after: chosen.map(({ id }) => ({ masterId: id, overrides: change })),
  };
}

/** What a remedy decides, and nothing beside it. */
function changeOf(remedy: Exclude<Decision, { kind: 'leave-out' }>): DecisionsChange {
  switch (remedy.kind) {
    case 'assume-srgb':
      return { assumeSrgb: true };
    case 'fill-rights':
      return { fillRights: true };
    case 'drop-place':
      return { dropPlace: true };
    case 'without':
      return { without: { [remedy.presetId]: true } };
  }
}
