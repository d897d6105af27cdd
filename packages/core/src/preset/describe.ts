import { type Typed, TYPED_COLOUR } from './typed';

/*
 * How a field of a preset describes itself: what it is called, how it is edited, and how its value reads.
 */

/** How a value is edited where it stands. */
export type EditorKind = 'number' | 'choice' | 'typed' | 'flip' | 'text' | 'words' | 'name-parts' | 'watermark';

export interface Suggestion<Value> {
  value: Value;
  label: string;
}

/** Everything that is said of one field: sentences, editors, docs/presets.md, messages and accessible names come from it. */
export interface Field<Value> {
  /** What it is called, on screen and in messages. */
  label: string;
  /** One sentence that a photographer understands. */
  help: string;
  editor: EditorKind;
  /** How the value reads in the sentence of its rung. */
  says: (value: Value) => string;
  /** Values that are offered; all there are, where the editor is a choice or a flip. */
  suggestions: readonly Suggestion<Value>[];
  /** How any other value is typed, where the editor is `typed`. */
  typed: Typed<Value> | null;
  /** Of a number: what stands behind it, what it is multiplied with for people, and how far one press goes. */
  unit: string;
  scale: number;
  step: number;
}

export type About = readonly [label: string, help: string];

export const plain = { suggestions: [], typed: null, unit: '', scale: 1, step: 1 } as const;
export const rounded = (value: number): string => String(Math.round(value * 1000) / 1000);

/** One of some values, each with its words; with `says`, the words in the sentence differ from those in the list. */
export function choice<Value>([label, help]: About, suggestions: readonly Suggestion<Value>[], says?: Field<Value>['says']): Field<Value> {
  const words = (value: Value) => suggestions.find((one) => JSON.stringify(one.value) === JSON.stringify(value))?.label ?? String(value);
  return { ...plain, label, help, editor: 'choice', suggestions, says: says ?? words };
}

/** The usual values, and any other that can be typed. */
export const typed = <Value>(
  about: About,
  how: Typed<Value>,
  suggestions: readonly Suggestion<Value>[],
  says: Field<Value>['says'],
): Field<Value> => ({
  ...choice(about, suggestions, says),
  editor: 'typed',
  typed: how,
});

/** One word of a list: every word of the schema has to be here. */
export const words = <Word extends string>(about: About, labels: Readonly<Record<Word, string>>, says?: Field<Word>['says']): Field<Word> =>
  choice(
    about,
    (Object.entries(labels) as [Word, string][]).map(([value, label]) => ({ value, label })),
    says,
  );

/** One of two values: a press changes it. */
export const flip = <Value>(
  [label, help]: About,
  ...pair: readonly [readonly [Value, string], readonly [Value, string]]
): Field<Value> => ({
  ...plain,
  label,
  help,
  editor: 'flip',
  suggestions: pair.map(([value, says]) => ({ value, label: says })),
  says: (value) => (pair.find(([one]) => one === value) ?? pair[0])[1],
});

export const onOff = (about: About, on: string, off: string): Field<boolean> => flip<boolean>(about, [true, on], [false, off]);
export const group = (label: string, holds: string): Field<'keep' | 'remove'> => ({
  ...flip<'keep' | 'remove'>([label, `Whether ${holds} go out with the file.`], ['keep', 'kept'], ['remove', 'removed']),
  says: () => label.toLowerCase(),
});

/** @param empty what is said where there is no number */
export const number = <Value extends number | null>(
  [label, help]: About,
  { unit = '', scale = 1, step = 1, empty = 'any' } = {},
): Field<Value> => ({
  ...plain,
  label,
  help,
  editor: 'number',
  unit,
  scale,
  step,
  says: (value) => (value === null ? empty : `${rounded(value * scale)}${unit && ` ${unit}`}`),
});

/** A length, whose unit is a field of its own. */
export const length = (label: string, help: string): Field<number | null> => number([label, help]);
export const share = (label: string, help: string, step = 1): Field<number> => number([label, help], { unit: '%', scale: 100, step });

export const text = ([label, help]: About, empty: string): Field<string> => ({
  ...plain,
  label,
  help,
  editor: 'text',
  says: (value) => value || empty,
});

const PLAIN_COLOURS: readonly Suggestion<string>[] = [
  { value: '#ffffff', label: 'white' },
  { value: '#808080', label: 'mid grey' },
  { value: '#000000', label: 'black' },
];
export const colour = (about: About): Field<string> =>
  typed(about, TYPED_COLOUR, PLAIN_COLOURS, (value) => PLAIN_COLOURS.find((known) => known.value === value.toLowerCase())?.label ?? value);
