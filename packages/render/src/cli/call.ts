import { readFile } from 'node:fs/promises';
import { dirname } from 'node:path';
import { parseArgs } from 'node:util';
import {
  type DecidedPictures,
  parseBundleText,
  parseDecisionsText,
  type Parsed,
  parsePresetText,
  parseStudioText,
  type Preset,
  type Problem,
  problemOf,
  SheetLook,
  StudioDetails,
  type Watermark,
} from '@rundle/core';
import { markOf, readWatermark } from '../mark/read';
import { type Command, COMMANDS, helpText, OPTIONS, unknownCommand, versionText, wrongOption } from './options';

/** A preset with the watermark that it names. */
export interface ReadyPreset {
  file: string;
  preset: Preset;
  watermark: Watermark | null;
}

/** What calls that make outputs have in common. */
interface MakingCall {
  presets: ReadyPreset[];
  /** What fills missing rights. */
  studio: StudioDetails;
  /** What was decided about pictures, by their SHA-256; null: nothing was given. */
  decisions: DecidedPictures | null;
  out: string;
  set: string | null;
  /** Whether weights may be guessed. */
  quick: boolean;
  /** Names or paths of the files that are rendered; empty: all. */
  only: string[];
  /** Whether what an earlier engine made is made again; it is up to date otherwise. */
  again: boolean;
  /** Where the results are kept; null: nowhere. */
  list: string | null;
  /** Whether what was made is written down beside it, by its hashes. */
  manifest: boolean;
  /** Whether what the call before made, and this one no longer makes so, is renamed or taken away. */
  sync: boolean;
  recursive: boolean;
  json: boolean;
  paths: string[];
}

/** A call of the command line, checked. */
export type Call =
  | (MakingCall & { command: 'render' | 'plan' })
  | (MakingCall & {
      command: 'watch';
      folder: string;
      /** Whether what lies there at the first start is taken. */
      existing: boolean;
      polling: boolean;
    })
  | { command: 'inspect'; recursive: boolean; json: boolean; paths: string[] }
  | { command: 'preset-from'; path: string; name: string | null; out: string | null; json: boolean }
  | { command: 'sheet'; look: SheetLook; out: string; recursive: boolean; json: boolean; paths: string[] }
  | { command: 'verify'; json: boolean; path: string; manifest: string | null };

export type ParsedCall =
  | { ok: true; call: Call }
  /** It asks about the command line itself. */
  | { ok: true; call: null; answer: string }
  | { ok: false; problems: Problem[]; help: string };

const wrong = (message: string, command: Command | null = null): ParsedCall => ({
  ok: false,
  problems: [{ code: 'usage', message }],
  help: helpText(command),
});

/** Reads the arguments and the presets they name; the presets are checked whole before anything else happens. */
export async function parseCall(args: string[]): Promise<ParsedCall> {
  const tokens = parseArgs({ args, options: OPTIONS, allowPositionals: true, strict: false, tokens: true }).tokens;
  const given = tokens.flatMap((token) => (token.kind === 'option' ? [token.name] : []));
  const word = tokens.find((token) => token.kind === 'positional')?.value;
  const command = COMMANDS.find((one) => one === word) ?? null;
  if (given.includes('version')) return { ok: true, call: null, answer: versionText() };
  if (given.includes('help') || word === 'help') return { ok: true, call: null, answer: helpText(command) };
  if (!command) return wrong(unknownCommand(word));
  const misplaced = wrongOption(command, given);
  if (misplaced) return wrong(misplaced, command);
  let parsed;
  try {
    parsed = parseArgs({ args, options: OPTIONS, allowPositionals: true, strict: true });
  } catch (error) {
    return wrong(problemOf(error).message, command);
  }
  const paths = parsed.positionals.slice(1);
  const {
    preset: files = [],
    bundle: bundles = [],
    studio: studioFile,
    decisions: decisionsFile,
    out,
    name = null,
    set = null,
    quick = false,
    only = [],
    again = false,
    list = null,
    manifest = false,
    sync = false,
    against = null,
    existing = false,
    polling = false,
    recursive = false,
    json = false,
    ...rest
  } = parsed.values;
  if (paths.length === 0) return wrong('Name at least one file or folder.', command);
  if (command === 'inspect') return { ok: true, call: { command, recursive, json, paths } };
  if (command === 'preset-from') {
    if (paths.length > 1) return wrong('preset-from looks at one file. Call it once for each.', command);
    return { ok: true, call: { command, path: paths[0] ?? '', name, out: out ?? null, json } };
  }
  if (command === 'sheet') {
    if (!out || !/\.pdf$/i.test(out)) return wrong('Name the PDF with --out FILE.pdf.', command);
    const look = sheetLookOf(rest);
    return typeof look === 'string' ? wrong(look, command) : { ok: true, call: { command, look, out, recursive, json, paths } };
  }
  if (command === 'verify') {
    if (paths.length > 1) return wrong('verify looks at one folder or ZIP. Call it once for each.', command);
    return { ok: true, call: { command, json, path: paths[0] ?? '', manifest: against } };
  }
  if (command === 'watch' && paths.length > 1) return wrong('watch follows one folder. Call it once for each.', command);
  if (sync && only.length > 0) return wrong('--sync is for all files of a call, so that it does not go with --only.', command);
  if (list !== null && !/\.(csv|json)$/i.test(list)) return wrong(`--list ${list}: name a file that ends with .csv or .json.`, command);
  if (files.length + bundles.length === 0)
    return wrong('Name at least one preset with --preset FILE, or several with --bundle FILE.', command);
  if (!out) return wrong('Name the target folder with --out DIR.', command);
  const read = await Promise.all([...files.map(readPreset), ...bundles.map(readBundle)]);
  const studio = studioFile === undefined ? { ok: true as const, value: StudioDetails.parse({}) } : await readStudio(studioFile);
  const decisions = decisionsFile === undefined ? { ok: true as const, value: null } : await readDecisions(decisionsFile);
  const problems = [...read, studio, decisions].flatMap((one) => (one.ok ? [] : one.problems));
  if (problems.length || !studio.ok || !decisions.ok) return { ok: false, problems, help: '' };
  const presets = read.flatMap((one) => (one.ok ? one.value : []));
  const common = {
    presets,
    studio: studio.value,
    decisions: decisions.value,
    out,
    set,
    quick,
    only,
    again,
    list,
    manifest: manifest || sync,
    sync,
    recursive,
    json,
    paths,
  };
  if (command === 'watch') return { ok: true, call: { ...common, command, folder: paths[0] ?? '', existing, polling } };
  return { ok: true, call: { ...common, command } };
}

const UNDER = ['names', 'titles', 'credit'] as const;

/** How a sheet is laid out, or what is wrong with an option of it. */
function sheetLookOf({ paper, landscape, margin, columns, rows, title, under, unnumbered }: SheetOptions): SheetLook | string {
  const words = under?.split(',').map((word) => word.trim()) ?? [];
  const unknown = words.find((word) => word !== 'none' && !UNDER.some((known) => known === word));
  if (unknown !== undefined) return `--under ${unknown}: one of ${UNDER.join(', ')} or none, with commas between them.`;
  const numbers = { margin, columns, rows };
  const said = {
    ...(paper === undefined ? {} : { paper: paper.toLowerCase() }),
    ...(title === undefined ? {} : { title }),
    ...Object.fromEntries(Object.entries(numbers).flatMap(([name, value]) => (value === undefined ? [] : [[name, Number(value)]]))),
    ...(under === undefined ? {} : Object.fromEntries(UNDER.map((word) => [word, words.includes(word)]))),
    landscape: landscape ?? false,
    numbers: !unnumbered,
  };
  const parsed = SheetLook.safeParse(said);
  if (parsed.success) return parsed.data;
  const [issue] = parsed.error.issues;
  return `--${issue?.path.join('.')}: ${issue?.message}.`;
}

interface SheetOptions {
  paper?: string;
  landscape?: boolean;
  margin?: string;
  columns?: string;
  rows?: string;
  title?: string;
  under?: string;
  unnumbered?: boolean;
}

/** The text of a file that an option names. */
async function textOf(file: string, option: string): Promise<Parsed<string>> {
  const text = await readFile(file, 'utf8').catch(() => null);
  if (text !== null) return { ok: true, value: text };
  return {
    ok: false,
    problems: [{ code: 'preset-missing', file, message: `The file cannot be read. Check the path behind --${option}.` }],
  };
}

async function readPreset(file: string): Promise<Parsed<ReadyPreset[]>> {
  const text = await textOf(file, 'preset');
  if (!text.ok) return text;
  const parsed = parsePresetText(text.value);
  if (!parsed.ok) return inFile(parsed.problems, file);
  const { mark } = parsed.value;
  try {
    return { ok: true, value: [{ file, preset: parsed.value, watermark: mark && (await readWatermark(mark.watermark, dirname(file))) }] };
  } catch (error) {
    return inFile([problemOf(error, 'watermark-unreadable')], file);
  }
}

/** The presets of a bundle, in their order; a watermark is taken out of the bundle, or is a file beside it. */
async function readBundle(file: string): Promise<Parsed<ReadyPreset[]>> {
  const text = await textOf(file, 'bundle');
  if (!text.ok) return text;
  const parsed = parseBundleText(text.value);
  if (!parsed.ok) return inFile(parsed.problems, file);
  const { presets, watermarks } = parsed.value;
  try {
    const value = await Promise.all(
      presets.map(async (preset): Promise<ReadyPreset> => {
        const named = preset.mark?.watermark;
        const own = watermarks.find(({ id }) => id === named);
        const watermark = named === undefined ? null : own ? markOf(own.mark) : await readWatermark(named, dirname(file));
        return { file, preset, watermark };
      }),
    );
    return { ok: true, value };
  } catch (error) {
    return inFile([problemOf(error, 'watermark-unreadable')], file);
  }
}

/** The studio's details, as the page of the studio exports them. */
async function readStudio(file: string): Promise<Parsed<StudioDetails>> {
  const text = await textOf(file, 'studio');
  if (!text.ok) return text;
  const parsed = parseStudioText(text.value);
  return parsed.ok ? parsed : inFile(parsed.problems, file);
}

/** What was decided about pictures, as a set exports it. */
async function readDecisions(file: string): Promise<Parsed<DecidedPictures>> {
  const text = await textOf(file, 'decisions');
  if (!text.ok) return text;
  const parsed = parseDecisionsText(text.value);
  return parsed.ok ? parsed : inFile(parsed.problems, file);
}

const inFile = (problems: readonly Problem[], file: string) => ({
  ok: false as const,
  problems: problems.map((problem) => ({ ...problem, file })),
});
