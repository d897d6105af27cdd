import { readFile } from 'node:fs/promises';
import { dirname } from 'node:path';
import { parseArgs } from 'node:util';
import {
  parseBundleText,
  type Parsed,
  parsePresetText,
  parseStudioText,
  type Preset,
  type Problem,
  problemOf,
  StudioDetails,
  type Watermark,
} from '@rundle/core';
import { markOf, readWatermark } from '../mark/read';

export const USAGE = `Usage:
  rundle render  --preset FILE|--bundle FILE ... --out DIR [--set NAME] [--studio FILE] [--only FILE ...] [--again] [--list FILE] [--manifest] [--sync] [--recursive] [--json] PATH...
  rundle plan    --preset FILE|--bundle FILE ... --out DIR [--set NAME] [--studio FILE] [--recursive] [--quick] [--json] PATH...
  rundle inspect [--recursive] [--json] PATH...
  rundle verify  [--against FILE] [--json] FOLDER|ZIP
  rundle watch   --preset FILE|--bundle FILE ... --out DIR [--set NAME] [--studio FILE] [--existing] [--recursive] [--polling] [--json] FOLDER

PATH is a file or a folder. Masters are only read. plan weighs parts of each; with --quick it guesses weights without looking at pixels.
--only FILE renders just that one of them; the counter in names counts all. --again makes what an earlier version of Rundle made once more. --list FILE.csv or FILE.json keeps the results as a table or as data.
--manifest writes manifest.json beside the outputs: what was made, by its hashes. --sync goes by that of the call before: what it made, nobody has
changed and this call no longer makes under that name is renamed or taken away, and told. verify holds a folder or a ZIP against it (or against another, by --against)
and says which files are as delivered, renamed, relabelled, compressed again, resized, missing or foreign.
watch makes outputs of what comes to rest in a folder, each picture once, until it is ended; --existing: of what lies there at the first start, too;
--polling: for disks that tell of no changes. It replaces nothing but what it made itself. Exit code: 0 all done, 2 wrong call or preset, 3 some failed.`;

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
  | { command: 'verify'; json: boolean; path: string; manifest: string | null };

export type ParsedCall = { ok: true; call: Call } | { ok: false; problems: Problem[] };

const OPTIONS = {
  preset: { type: 'string', multiple: true },
  bundle: { type: 'string', multiple: true },
  studio: { type: 'string' },
  out: { type: 'string' },
  set: { type: 'string' },
  quick: { type: 'boolean' },
  only: { type: 'string', multiple: true },
  again: { type: 'boolean' },
  list: { type: 'string' },
  manifest: { type: 'boolean' },
  sync: { type: 'boolean' },
  against: { type: 'string' },
  existing: { type: 'boolean' },
  polling: { type: 'boolean' },
  recursive: { type: 'boolean' },
  json: { type: 'boolean' },
} as const;

const wrong = (message: string): ParsedCall => ({ ok: false, problems: [{ code: 'usage', message }] });

/** Reads the arguments and the presets they name; the presets are checked whole before anything else happens. */
export async function parseCall(args: string[]): Promise<ParsedCall> {
  let parsed;
  try {
    parsed = parseArgs({ args, options: OPTIONS, allowPositionals: true, strict: true });
  } catch (error) {
    return wrong(problemOf(error).message);
  }
  const [command, ...paths] = parsed.positionals;
  const {
    preset: files = [],
    bundle: bundles = [],
    studio: studioFile,
    out,
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
  } = parsed.values;
  if (command !== 'render' && command !== 'plan' && command !== 'inspect' && command !== 'verify' && command !== 'watch')
    return wrong('The first word has to be render, plan, inspect, verify or watch.');
  if (paths.length === 0) return wrong('Name at least one file or folder.');
  if (command === 'inspect') return { ok: true, call: { command, recursive, json, paths } };
  if (against !== null && command !== 'verify') return wrong('--against belongs to verify.');
  if (command === 'verify') {
    if (paths.length > 1) return wrong('verify looks at one folder or ZIP. Call it once for each.');
    return { ok: true, call: { command, json, path: paths[0] ?? '', manifest: against } };
  }
  if (quick && command !== 'plan') return wrong('--quick belongs to plan: nothing else weighs beforehand.');
  if ((existing || polling) && command !== 'watch') return wrong('--existing and --polling belong to watch.');
  if (command === 'watch' && paths.length > 1) return wrong('watch follows one folder. Call it once for each.');
  if ((only.length > 0 || again || list !== null || manifest || sync) && command !== 'render')
    return wrong('--only, --again, --list, --manifest and --sync belong to render.');
  if (sync && only.length > 0) return wrong('--sync is for all files of a call, so that it does not go with --only.');
  if (list !== null && !/\.(csv|json)$/i.test(list)) return wrong(`--list ${list}: name a file that ends with .csv or .json.`);
  if (files.length + bundles.length === 0) return wrong('Name at least one preset with --preset FILE, or several with --bundle FILE.');
  if (!out) return wrong('Name the target folder with --out DIR.');
  const read = await Promise.all([...files.map(readPreset), ...bundles.map(readBundle)]);
  const studio = studioFile === undefined ? { ok: true as const, value: StudioDetails.parse({}) } : await readStudio(studioFile);
  const problems = [...read, studio].flatMap((one) => (one.ok ? [] : one.problems));
  if (problems.length || !studio.ok) return { ok: false, problems };
  const presets = read.flatMap((one) => (one.ok ? one.value : []));
  const common = {
    presets,
    studio: studio.value,
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

const inFile = (problems: readonly Problem[], file: string) => ({
  ok: false as const,
  problems: problems.map((problem) => ({ ...problem, file })),
});
