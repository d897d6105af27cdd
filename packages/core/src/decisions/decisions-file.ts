import * as z from 'zod';
import { fieldProblems, jsonOrNull, type Parsed } from '../preset/parse';
import { type DecisionsChange, saidOf } from './change';
import { type DecisionName, type Decisions, NO_DECISIONS, Overrides } from './decisions';

const DecidedPicture = z.strictObject({
  sha256: z
    .string()
    .regex(/^[0-9a-f]{64}$/, { error: 'a SHA-256 of 64 hexadecimal digits' })
    .meta({ description: 'Of the picture’s file: what is decided is about this picture, whatever it is called' }),
  name: z.string().max(1000).default('').meta({ description: 'What the file was called, for people' }),
  ...Overrides.omit({ without: true }).shape,
  without: z.array(z.string().max(120)).max(10_000).default([]).meta({ description: 'Titles of presets that make nothing of it' }),
});
export type DecidedPicture = z.infer<typeof DecidedPicture>;

/** Decisions about pictures as they travel (`*.decisions.json`). */
export const DecisionsFile = z
  .strictObject({
    kind: z.literal('rundle.decisions', { error: '"rundle.decisions"' }),
    version: z.literal(1, { error: '1, the only version of the decisions file this program knows' }),
    pictures: z.array(DecidedPicture).max(100_000),
  })
  .meta({ id: 'Decisions', title: 'Rundle decisions about pictures, version 1' });
export type DecisionsFile = z.infer<typeof DecisionsFile>;

/** By the SHA-256 of the picture. */
export type DecidedPictures = ReadonlyMap<string, DecidedPicture>;

/** A picture about which something may have been decided. */
export interface DecidablePicture {
  sha256: string;
  fileName: string;
  decisions: Decisions;
}

/**
 * What was decided about pictures, to be written down. Pictures about which nothing was decided are left out, and so is what was not decided.
 * @param titles of presets by their id; presets that are not among them are not spoken of
 */
export function decisionsFile(pictures: readonly DecidablePicture[], titles: ReadonlyMap<string, string>): DecisionsFile {
  const decided = pictures.flatMap(({ sha256, fileName, decisions }) => {
    const { without = [], ...said } = saidOf(decisions);
    const leftOut = without.flatMap((id) => titles.get(id) ?? []);
    if (Object.keys(said).length + leftOut.length === 0) return [];
    return [{ sha256, name: fileName, ...said, ...(leftOut.length ? { without: leftOut } : {}) }];
  });
  // Written without its defaults: it is read by people, too.
  return { kind: 'rundle.decisions', version: 1, pictures: decided as DecisionsFile['pictures'] };
}

/** Reads a file of decisions from JSON text. */
export function parseDecisionsFile(text: string): Parsed<DecisionsFile> {
  const json = jsonOrNull(text.replace(/^\uFEFF/, ''));
  const parsed = DecisionsFile.safeParse(json);
  return parsed.success
    ? { ok: true, value: parsed.data }
    : { ok: false, problems: fieldProblems(parsed.error, json, 'bundle-field', DecisionsFile) };
}

/** The same by the SHA-256 of the picture; the last one counts where it is there twice. */
export function parseDecisionsText(text: string): Parsed<DecidedPictures> {
  const parsed = parseDecisionsFile(text);
  return parsed.ok ? { ok: true, value: new Map(parsed.value.pictures.map((picture) => [picture.sha256, picture])) } : parsed;
}

/** Ids of presets by their title: a file knows presets by what they are called. */
export function idsByTitle(presets: readonly { id: string; title: string }[]): ReadonlyMap<string, readonly string[]> {
  const ids = new Map<string, string[]>();
  for (const { id, title } of presets) ids.set(title, [...(ids.get(title) ?? []), id]);
  return ids;
}

/** Everything that a file decides about a picture. @param ids of presets by their title */
export function decisionsIn(picture: DecidedPicture | undefined, ids: ReadonlyMap<string, readonly string[]>): Decisions {
  if (!picture) return NO_DECISIONS;
  const said = Object.fromEntries((Object.keys(NO_DECISIONS) as DecisionName[]).map((name) => [name, picture[name]])) as Decisions;
  return { ...said, without: picture.without.flatMap((title) => ids.get(title) ?? []) };
}

/** The same as a change: whatever the file does not decide stays as it is. */
export function changeIn(picture: DecidedPicture, ids: ReadonlyMap<string, readonly string[]>): DecisionsChange {
  const { without = [], ...said } = saidOf(decisionsIn(picture, ids));
  return without.length ? { ...said, without: Object.fromEntries(without.map((id) => [id, true])) } : said;
}

/** The JSON Schema (2020-12) of a file of decisions as people write it. */
export const decisionsJsonSchema = (): object => z.toJSONSchema(DecisionsFile, { io: 'input' });
