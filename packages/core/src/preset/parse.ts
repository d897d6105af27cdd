import type * as z from 'zod';
import type { ProblemCode } from '../codes/problem-codes';
import type { Problem } from '../problem';
import { labelAt } from './labels';
import { Preset } from './schema';

export type Parsed<T> = { ok: true; value: T } | { ok: false; problems: Problem[] };

/**
 * Reads a preset from JSON text.
 * @param text UTF-8 text of a `*.preset.json` file
 * @returns the preset with its defaults filled in, or one problem for each field that is wrong
 */
export function parsePresetText(text: string): Parsed<Preset> {
  let json: unknown;
  try {
    json = JSON.parse(text.replace(/^\uFEFF/, ''));
  } catch (error) {
    const reason = error instanceof Error ? error.message : String(error);
    return { ok: false, problems: [{ code: 'preset-not-json', message: `The preset is not valid JSON: ${reason}.` }] };
  }
  return parsePreset(json);
}

/**
 * Reads a preset from a value that came from outside; see {@link parsePresetText}.
 * @example parsePreset({ kind: 'rundle.preset', version: 1, title: 'Web', file: { quality: 101 } })
 * // { ok: false, problems: [{ code: 'preset-field', field: 'file.quality', message: 'Quality: a whole number from 1 to 100, not 101.' }] }
 */
export function parsePreset(json: unknown): Parsed<Preset> {
  const result = Preset.safeParse(json);
  return result.success
    ? { ok: true, value: result.data }
    : { ok: false, problems: fieldProblems(result.error, json, 'preset-field', Preset) };
}

/**
 * One problem per wrong field: "Quality: a whole number from 1 to 100, not 101."
 * @param error what Zod found
 * @param input the value it looked at, to quote what was received
 * @param code code to give to the problems
 * @param schema tells what people call a field; see {@link labelAt}. A field without a label is called by its path
 */
export function fieldProblems(error: z.ZodError, input: unknown, code: ProblemCode, schema: z.ZodType): Problem[] {
  return error.issues.flatMap((issue) => {
    if (issue.code === 'unrecognized_keys')
      return issue.keys.map((key) => {
        const field = [...issue.path, key].join('.');
        return { code, field, message: `There is no field ${field}. Remove it or correct its spelling.` };
      });
    const field = issue.path.join('.');
    const allowed = issue.message.replace(/^Invalid input: expected /, '');
    const name = labelAt(schema, field) ?? (field || 'The whole');
    return [{ code, field, message: `${name}: ${allowed}, not ${received(input, issue.path)}.` }];
  });
}

function received(input: unknown, path: readonly PropertyKey[]): string {
  let value = input;
  for (const key of path) value = value !== null && typeof value === 'object' ? Reflect.get(value, key) : undefined;
  if (value === undefined || value === null) return 'nothing';
  const text = JSON.stringify(value) ?? typeof value;
  return text.length > 60 ? `${text.slice(0, 57)}...` : text;
}

/** A value from JSON text that came from outside, to be checked by a schema; null when it is no JSON. */
export function jsonOrNull(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return null;
  }
}
