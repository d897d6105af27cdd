import { ENGINE, PAPER_NAMES } from '@rundle/core';
import { closest, distance } from 'fastest-levenshtein';
import about from '../../package.json' with { type: 'json' };

export const COMMANDS = ['render', 'plan', 'inspect', 'preset-from', 'sheet', 'verify', 'watch'] as const;
export type Command = (typeof COMMANDS)[number];

/** What each command does, and what it is given beside its options. */
const ABOUT: Record<Command, { does: string; paths: string }> = {
  render: { does: 'Makes the outputs of presets.', paths: 'PATH...' },
  plan: { does: 'Tells what render would make, and writes nothing.', paths: 'PATH...' },
  inspect: { does: 'Tells what is known of each picture.', paths: 'PATH...' },
  'preset-from': { does: 'Tells by which preset files become like one that is finished, and how sure each value is.', paths: 'FILE' },
  sheet: { does: 'Makes a PDF of pictures in rows, for paper. It replaces no file.', paths: 'PATH...' },
  verify: {
    does: 'Holds a folder or a ZIP against its manifest: which files are as delivered, renamed, relabelled, compressed again, resized, missing or foreign.',
    paths: 'FOLDER|ZIP',
  },
  watch: {
    does: 'Makes outputs of what comes to rest in a folder, each picture once, until it is ended. It replaces nothing but what it made itself.',
    paths: 'FOLDER',
  },
};

interface Option {
  type: 'string' | 'boolean';
  multiple?: true;
  /** What is given with it. */
  value?: string;
  of: readonly Command[];
  means: string;
}

const MAKING = ['render', 'plan', 'watch'] as const;

/** Every option, in the order in which help lists them. */
export const OPTIONS = {
  preset: { type: 'string', multiple: true, value: 'FILE', of: MAKING, means: 'a preset; may be given several times' },
  bundle: { type: 'string', multiple: true, value: 'FILE', of: MAKING, means: 'several presets in one file; may be given several times' },
  out: {
    type: 'string',
    value: 'DIR',
    of: [...MAKING, 'sheet', 'preset-from'],
    means: 'the folder that outputs come into; of sheet the PDF, of preset-from the preset',
  },
  name: { type: 'string', value: 'NAME', of: ['preset-from'], means: 'what the file is called, where its path does not say so' },
  set: { type: 'string', value: 'NAME', of: MAKING, means: 'the name of the set, for names that have it' },
  studio: { type: 'string', value: 'FILE', of: MAKING, means: 'details of the studio, which fill missing rights' },
  decisions: {
    type: 'string',
    value: 'FILE',
    of: MAKING,
    means: 'what was decided about pictures: crops and the like, as a set exports it',
  },
  only: { type: 'string', multiple: true, value: 'FILE', of: ['render'], means: 'renders just that file; the counter in names counts all' },
  again: { type: 'boolean', of: ['render'], means: 'makes what an earlier version of Rundle made once more' },
  list: { type: 'string', value: 'FILE', of: ['render'], means: 'keeps the results as a table (.csv) or as data (.json)' },
  manifest: { type: 'boolean', of: ['render'], means: 'writes manifest.json beside the outputs: what was made, by its hashes' },
  sync: {
    type: 'boolean',
    of: ['render'],
    means:
      'goes by the manifest of the call before: what it made, nobody has changed and this call no longer makes is renamed or taken away',
  },
  quick: { type: 'boolean', of: ['plan'], means: 'guesses weights without looking at pixels' },
  against: { type: 'string', value: 'FILE', of: ['verify'], means: 'the manifest; else the one in the folder' },
  existing: { type: 'boolean', of: ['watch'], means: 'takes what lies there at the first start, too' },
  polling: { type: 'boolean', of: ['watch'], means: 'for disks that tell of no changes' },
  paper: { type: 'string', value: 'SIZE', of: ['sheet'], means: `${PAPER_NAMES.join(', ')}; a4, unless it is said` },
  landscape: { type: 'boolean', of: ['sheet'], means: 'the paper lies on its side' },
  margin: { type: 'string', value: 'MM', of: ['sheet'], means: 'on each side, in mm; 15, unless it is said' },
  columns: { type: 'string', value: 'N', of: ['sheet'], means: 'pictures side by side; 3, unless it is said' },
  rows: { type: 'string', value: 'N', of: ['sheet'], means: 'pictures one below the other; 4, unless it is said' },
  title: { type: 'string', value: 'TEXT', of: ['sheet'], means: 'stands above each page' },
  under: {
    type: 'string',
    value: 'LIST',
    of: ['sheet'],
    means: 'what stands under each picture: names, titles, credit, none; names,credit, unless it is said',
  },
  unnumbered: { type: 'boolean', of: ['sheet'], means: 'without page numbers' },
  recursive: { type: 'boolean', of: ['render', 'plan', 'inspect', 'sheet', 'watch'], means: 'looks into folders in folders' },
  json: { type: 'boolean', of: COMMANDS, means: 'one JSON object a line on standard output, nothing else there' },
  help: { type: 'boolean', of: COMMANDS, means: 'this text' },
  version: { type: 'boolean', of: COMMANDS, means: 'which Rundle this is' },
} as const satisfies Record<string, Option>;

export type OptionName = keyof typeof OPTIONS;
const ENTRIES = Object.entries(OPTIONS) as [OptionName, Option][];

/** @example "rundle 0.1.0, engine 7" */
export const versionText = (): string => `rundle ${about.version}, engine ${ENGINE}`;

const GENERAL: readonly OptionName[] = ['help', 'version'];
const spelled = (name: OptionName, { value }: Option) => `--${name}${value ? ` ${value}` : ''}`;

/** How a command is called. @param command null: all of them, one line each */
export function helpText(command: Command | null): string {
  const lines = command ? helpOf(command) : helpOfAll();
  return [
    ...lines,
    '',
    'PATH is a file or a folder. Masters are only read.',
    'Exit code: 0 all done, 2 wrong call or preset and nothing written, 3 some failed.',
  ].join('\n');
}

function helpOfAll(): string[] {
  const width = Math.max(...COMMANDS.map((name) => name.length));
  return [
    'Usage: rundle COMMAND [OPTIONS] PATH...',
    '',
    ...COMMANDS.map((name) => `  ${name.padEnd(width)}  ${ABOUT[name].does}`),
    '',
    'rundle COMMAND --help tells the options of a command; rundle --version which Rundle this is.',
  ];
}

function helpOf(command: Command): string[] {
  const { does, paths } = ABOUT[command];
  const own = ENTRIES.filter(([, { of }]) => of.includes(command));
  const width = Math.max(...own.map(([name, option]) => spelled(name, option).length));
  const needs = MAKING.some((one) => one === command) ? ' --preset FILE --out DIR' : command === 'sheet' ? ' --out FILE.pdf' : '';
  return [
    `Usage: rundle ${command}${needs} [OPTIONS] ${paths}`,
    '',
    does,
    '',
    ...own.map(([name, option]) => `  ${spelled(name, option).padEnd(width)}  ${option.means}`),
  ];
}

/** What is wrong with a word that is no command, and which one may have been meant. */
export function unknownCommand(word: string | undefined): string {
  const list = `${COMMANDS.slice(0, -1).join(', ')} or ${COMMANDS.at(-1)}`;
  if (word === undefined) return `The first word has to be ${list}.`;
  return `“${word}” is no command: the first word has to be ${list}.${meant(word, COMMANDS, '')}`;
}

/** What is wrong with the options of a call; null: nothing. */
export function wrongOption(command: Command, given: readonly string[]): string | null {
  for (const name of given) {
    const known = ENTRIES.find(([one]) => one === name);
    if (!known)
      return `There is no option --${name}.${meant(
        name,
        ENTRIES.filter(([, { of }]) => of.includes(command)).map(([one]) => one),
        '--',
      )}`;
    const [, { of }] = known;
    if (!of.includes(command) && !GENERAL.includes(known[0])) return `--${name} belongs to ${of.join(', ')}.`;
  }
  return null;
}

/** Letters in which a word may differ from the one that was meant. */
const MOST_TYPING = 3;

function meant(word: string, all: readonly string[], before: string): string {
  const near = closest(word, [...all]);
  return distance(word, near) <= Math.min(MOST_TYPING, Math.ceil(word.length / 2)) ? ` Did you mean ${before}${near}?` : '';
}
