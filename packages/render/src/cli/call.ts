import { readFile } from 'node:fs/promises';
import { dirname } from 'node:path';
import { parseArgs } from 'node:util';
import { parsePresetText, type Preset, type Problem, problemOf, type Watermark } from '@rundle/core';
import { readWatermark } from '../mark/read';

export const USAGE = `Usage:
  rundle render  --preset FILE [--preset FILE ...] --out DIR [--set NAME] [--recursive] [--json] PATH...
  rundle plan    --preset FILE [--preset FILE ...] --out DIR [--set NAME] [--recursive] [--json] PATH...
  rundle inspect [--recursive] [--json] PATH...

PATH is a file or a folder. Masters are only read. Exit code: 0 all done, 2 wrong call or preset, 3 some failed.`;

/** A preset with the watermark that it names. */
export interface ReadyPreset {
  file: string;
  preset: Preset;
  watermark: Watermark | null;
}

/** A call of the command line, checked. */
export type Call =
  | {
      command: 'render' | 'plan';
      presets: ReadyPreset[];
      out: string;
      set: string | null;
      recursive: boolean;
      json: boolean;
      paths: string[];
    }
  | { command: 'inspect'; recursive: boolean; json: boolean; paths: string[] };

export type ParsedCall = { ok: true; call: Call } | { ok: false; problems: Problem[] };

const OPTIONS = {
  preset: { type: 'string', multiple: true },
  out: { type: 'string' },
  set: { type: 'string' },
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
  const { preset: files = [], out, set = null, recursive = false, json = false } = parsed.values;
  if (command !== 'render' && command !== 'plan' && command !== 'inspect')
    return wrong('The first word has to be render, plan or inspect.');
  if (paths.length === 0) return wrong('Name at least one file or folder.');
  if (command === 'inspect') return { ok: true, call: { command, recursive, json, paths } };
  if (files.length === 0) return wrong('Name at least one preset with --preset FILE.');
  if (!out) return wrong('Name the target folder with --out DIR.');
  const read = await Promise.all(files.map(readPreset));
  const problems = read.flatMap((preset) => (preset.ok ? [] : preset.problems));
  if (problems.length) return { ok: false, problems };
  const presets = read.flatMap((preset) => (preset.ok ? [preset.value] : []));
  return { ok: true, call: { command, presets, out, set, recursive, json, paths } };
}

type ReadPreset = { ok: true; value: ReadyPreset } | { ok: false; problems: Problem[] };

async function readPreset(file: string): Promise<ReadPreset> {
  const text = await readFile(file, 'utf8').catch(() => null);
  if (text === null)
    return {
      ok: false,
      problems: [{ code: 'preset-missing', file, message: 'The preset cannot be read. Check the path behind --preset.' }],
    };
  const parsed = parsePresetText(text);
  if (!parsed.ok) return { ok: false, problems: parsed.problems.map((problem) => ({ ...problem, file })) };
  const { mark } = parsed.value;
  try {
    return { ok: true, value: { file, preset: parsed.value, watermark: mark && (await readWatermark(mark.watermark, dirname(file))) } };
  } catch (error) {
    return { ok: false, problems: [{ ...problemOf(error, 'watermark-unreadable'), file }] };
  }
}
