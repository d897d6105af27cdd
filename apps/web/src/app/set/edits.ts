import { decidedAfter, type MarkChange, marked, type Marks, type Master, type MarksChange, type SetChange } from '@rundle/core';

export type MarkEntry = MarksChange['marks'][number];

/** Something done to the pictures of a set that can be undone: what was before, and what is after. */
export type Edit =
  | { kind: 'marks'; label: string; before: MarkEntry[]; after: MarkEntry[] }
  | { kind: 'order'; label: string; before: string[]; after: string[] }
  | { kind: 'removal'; label: string; gone: Master[]; back: boolean };

/** A change of the set's own fields: it waits its turn and is taken back like an edit, but is not undone by hand. */
export interface SetEdit {
  kind: 'set';
  label: string;
  before: SetChange;
  after: SetChange;
}

/** The edit that takes another back. */
export function inverse(edit: Edit): Edit {
  if (edit.kind === 'removal') return { ...edit, back: !edit.back };
  return edit.kind === 'marks' ? { ...edit, before: edit.after, after: edit.before } : { ...edit, before: edit.after, after: edit.before };
}

/** Pictures after an edit, in the order of the set. */
export function edited(masters: readonly Master[], edit: Edit): Master[] {
  switch (edit.kind) {
    case 'marks': {
      const changes = new Map(edit.after.map(({ masterId, ...change }) => [masterId, change]));
      return masters.map((master) => {
        const change = changes.get(master.id);
        if (!change) return master;
        const { overrides, ...marks } = change;
        return { ...master, ...marks, overrides: overrides ? decidedAfter(master.overrides, overrides) : master.overrides };
      });
    }
    case 'order':
      return inOrder(masters, edit.after);
    case 'removal': {
      const gone = new Set(edit.gone.map(({ id }) => id));
      const staying = masters.filter(({ id }) => !gone.has(id));
      return edit.back ? [...staying, ...edit.gone].sort((a, b) => a.position - b.position) : staying;
    }
  }
}

/** Pictures in the order of some ids; others keep their order behind them. Positions are numbered anew. */
export function inOrder(masters: readonly Master[], ids: readonly string[]): Master[] {
  const place = new Map(ids.map((id, at) => [id, at]));
  const at = ({ id, position }: Master) => place.get(id) ?? ids.length + position;
  return masters
    .toSorted((a, b) => at(a) - at(b))
    .map((master, position) => (master.position === position ? master : { ...master, position }));
}

const FIELD = { stars: 'stars', choice: 'choice', tag: 'tags' } as const;

/** What pressing a mark does to some pictures; null when it changes none of them. */
export function markEdit(masters: readonly Master[], ids: ReadonlySet<string>, change: MarkChange): Edit | null {
  const field = FIELD[change.kind];
  const entry = (masterId: string, marks: Marks): MarkEntry => ({ masterId, [field]: marks[field] });
  const changed = masters
    .filter(({ id }) => ids.has(id))
    .map((master) => ({ master, after: marked(master, change) }))
    .filter(({ master, after }) => after !== master);
  if (changed.length === 0) return null;
  return {
    kind: 'marks',
    label: labelOf(change),
    before: changed.map(({ master }) => entry(master.id, master)),
    after: changed.map(({ master, after }) => entry(master.id, after)),
  };
}

function labelOf(change: MarkChange): string {
  switch (change.kind) {
    case 'stars':
      return change.stars ? `${change.stars} ${change.stars === 1 ? 'star' : 'stars'}` : 'no stars';
    case 'choice':
      return change.choice === 'pick' ? 'picked' : change.choice === 'out' ? 'left out' : 'neither picked nor left out';
    case 'tag':
      return change.on ? `tag “${change.tag}”` : `without tag “${change.tag}”`;
  }
}
