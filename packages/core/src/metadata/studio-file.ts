import * as z from 'zod';
import { fieldProblems, type Parsed } from '../preset/parse';
import { jsonOrNull } from '../preset/parse';
import { StudioDetails } from './studio';

/** The studio's details as they travel to the command line (`*.studio.json`). */
export const StudioFile = z.strictObject({
  kind: z.literal('rundle.studio', { error: '"rundle.studio"' }),
  version: z.literal(1, { error: '1, the only version of the studio file this program knows' }),
  details: StudioDetails,
});
export type StudioFile = z.infer<typeof StudioFile>;

export const studioFile = (details: StudioDetails): StudioFile => ({ kind: 'rundle.studio', version: 1, details });

/** Reads the studio's details from JSON text. */
export function parseStudioText(text: string): Parsed<StudioDetails> {
  const json = jsonOrNull(text.replace(/^\uFEFF/, ''));
  const parsed = StudioFile.safeParse(json);
  return parsed.success
    ? { ok: true, value: parsed.data.details }
    : { ok: false, problems: fieldProblems(parsed.error, json, 'bundle-field', StudioFile) };
}
