import type { MarkChange } from '@rundle/core';

/** What a key asks for on the contact sheet. */
export type KeyCommand =
  | { do: 'mark'; change: MarkChange }
  | { do: 'toggle-choice'; choice: 'pick' | 'out' }
  | { do: 'move'; key: string; extend: boolean }
  | { do: 'carry'; key: string }
  | { do: 'tag' | 'undo' | 'redo' | 'all' | 'none' | 'invert' | 'take-out' | 'facts' | 'crop' | 'toggle' | 'help' };

const ARROWS = new Set(['ArrowLeft', 'ArrowRight', 'ArrowUp', 'ArrowDown', 'Home', 'End']);

/** Keys as the shortcut sheet tells them. */
export const SHORTCUTS: readonly (readonly [keys: string, what: string])[] = [
  ['Arrows, Home, End', 'go to another picture; with Shift select on the way'],
  ['Arrow up from the first row', 'in the table: to its heads, which sort it'],
  ['Alt + arrow left, right', 'carry the selected pictures one place on'],
  ['Space', 'select the picture, or no longer'],
  ['0 – 5', 'stars'],
  ['+, −', 'pick; leave out. Again: neither'],
  ['T', 'tag'],
  ['A, I, Esc', 'select all, invert, none'],
  ['Enter', 'facts, and the picture large'],
  ['C', 'crop'],
  [', .', 'in the large view, Proof and Hand over: darker, brighter'],
  ['Delete', 'remove from the set'],
  ['Ctrl + Z, Ctrl + Shift + Z', 'undo, redo'],
  ['?', 'this sheet'],
];

/**
 * The command behind a key press; null: none of ours.
 * @param singleKeys whether letters, digits and signs by themselves are commands
 */
export function commandFor({ key, ctrlKey, metaKey, altKey, shiftKey }: KeyboardEvent, singleKeys = true): KeyCommand | null {
  const command = ctrlKey || metaKey;
  if (command) {
    if (key.toLowerCase() === 'z') return { do: shiftKey ? 'redo' : 'undo' };
    if (key.toLowerCase() === 'y') return { do: 'redo' };
    return key.toLowerCase() === 'a' ? { do: 'all' } : null;
  }
  if (ARROWS.has(key)) return altKey ? { do: 'carry', key } : { do: 'move', key, extend: shiftKey };
  if (altKey || (!singleKeys && key.length === 1 && key !== ' ')) return null;
  if (/^[0-5]$/.test(key)) return { do: 'mark', change: { kind: 'stars', stars: Number(key) } };
  return PLAIN[key.toLowerCase()] ?? null;
}

const PLAIN: Record<string, KeyCommand> = {
  '+': { do: 'toggle-choice', choice: 'pick' },
  '=': { do: 'toggle-choice', choice: 'pick' },
  '-': { do: 'toggle-choice', choice: 'out' },
  t: { do: 'tag' },
  a: { do: 'all' },
  i: { do: 'invert' },
  escape: { do: 'none' },
  delete: { do: 'take-out' },
  enter: { do: 'facts' },
  c: { do: 'crop' },
  ' ': { do: 'toggle' },
  '?': { do: 'help' },
};
