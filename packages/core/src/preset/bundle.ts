import * as z from 'zod';
import { SavedMark } from '../mark/watermark';
import { webSafe } from '../name/web-safe';
import { line } from './fields';
import { fieldProblems, type Parsed, parsePreset } from './parse';
import { Preset } from './schema';

/** A watermark as it travels with the presets that name it. */
export const TravellingMark = z.strictObject({ id: line(500, 1), title: line(120, 1).meta({ title: 'Name' }), mark: SavedMark });
export type TravellingMark = z.infer<typeof TravellingMark>;

/** Several presets, and the watermarks that they name, in one file (`*.bundle.json`). */
export const Bundle = z
  .strictObject({
    kind: z.literal('rundle.bundle', { error: '"rundle.bundle"' }),
    version: z.literal(1, { error: '1, the only version of the bundle file this program knows' }),
    title: line(120, 1).meta({ title: 'Name' }),
    presets: z
      .array(Preset, { error: 'a list of presets' })
      .min(1, { error: 'at least one preset' })
      .max(200, { error: 'at most 200 presets' })
      .meta({ title: 'Presets' }),
    watermarks: z
      .array(TravellingMark, { error: 'a list of watermarks' })
      .max(200, { error: 'at most 200 watermarks' })
      .default([])
      .meta({ title: 'Watermarks' }),
  })
  .meta({ id: 'Bundle', title: 'Rundle bundle, version 1' });
export type Bundle = z.infer<typeof Bundle>;

/**
 * Reads a preset file or a bundle file from JSON text; a preset alone becomes a bundle of one.
 * @param text UTF-8 text of a `*.preset.json` or `*.bundle.json`
 * @returns the bundle with its defaults filled in, or one problem for each field that is wrong, by its label and the preset it is in
 */
export function parseBundleText(text: string): Parsed<Bundle> {
  let json: unknown;
  try {
    json = JSON.parse(text.replace(/^\uFEFF/, ''));
  } catch (error) {
    const reason = error instanceof Error ? error.message : String(error);
    return { ok: false, problems: [{ code: 'preset-not-json', message: `It is not valid JSON: ${reason}.` }] };
  }
  const kind = json !== null && typeof json === 'object' && 'kind' in json ? json.kind : undefined;
  if (kind === 'rundle.bundle') return parseBundle(json as { presets?: unknown });
  if (kind === 'rundle.preset') {
    const parsed = parsePreset(json);
    return parsed.ok ? { ok: true, value: bundleOf(parsed.value.title, [parsed.value]) } : parsed;
  }
  return {
    ok: false,
    problems: [
      {
        code: 'preset-field',
        field: 'kind',
        message: 'It is neither a preset nor a bundle: its kind should be "rundle.preset" or "rundle.bundle".',
      },
    ],
  };
}

function parseBundle(json: { presets?: unknown }): Parsed<Bundle> {
  // One by one first, so that a wrong field is told by its label and by the preset that it is in.
  const inPresets = (Array.isArray(json.presets) ? json.presets : []).flatMap((preset: unknown, at) => {
    const parsed = parsePreset(preset);
    if (parsed.ok) return [];
    const named = preset !== null && typeof preset === 'object' && 'title' in preset && typeof preset.title === 'string';
    const who = named ? `“${String(preset.title)}”` : `Preset ${at + 1}`;
    return parsed.problems.map((problem) => ({ ...problem, message: `${who}: ${problem.message}` }));
  });
  if (inPresets.length) return { ok: false, problems: inPresets };
  const parsed = Bundle.safeParse(json);
  return parsed.success
    ? { ok: true, value: parsed.data }
    : { ok: false, problems: fieldProblems(parsed.error, json, 'bundle-field', Bundle) };
}

export const bundleOf = (title: string, presets: Preset[], watermarks: TravellingMark[] = []): Bundle => ({
  kind: 'rundle.bundle',
  version: 1,
  title,
  presets,
  watermarks,
});

/** The JSON Schema (2020-12) of a bundle as people write it, generated from {@link Bundle}. */
export function bundleJsonSchema(): object {
  return z.toJSONSchema(Bundle, { io: 'input' });
}

/** What a preset, a bundle or the studio is called as a file. */
export const fileNameOf = (title: string, kind: 'preset' | 'bundle' | 'studio' | 'decisions'): string =>
  `${webSafe(title).toLowerCase() || kind}.${kind}.json`;
