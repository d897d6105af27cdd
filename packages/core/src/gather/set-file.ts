import * as z from 'zod';
import type { Id } from '../api/sets';
import { SetTitle, Time } from '../api/sets';
import { DecisionsFile } from '../decisions/decisions-file';
import { StudioDetails } from '../metadata/studio';
import { Bundle } from '../preset/bundle';
import { line } from '../preset/fields';
import { fieldProblems, jsonOrNull, type Parsed } from '../preset/parse';
import { Marks } from './marks';

const Sha256 = z.string().regex(/^[0-9a-f]{64}$/, { error: 'a SHA-256 of 64 hexadecimal digits' });

/** A picture of a set that travels; they stand in its order. */
const TravellingPicture = Marks.extend({
  sha256: Sha256.meta({ description: 'Of its file: by that it is told, whatever it is called' }),
  name: line(255, 1),
  bytes: z.int().min(0),
  master: z
    .string()
    .max(1000)
    .nullable()
    .default(null)
    .meta({ description: 'Where its file lies beside this one; null: it does not travel along' }),
}).strict();

/** A file that was made, for the record. */
const RecordedFile = z.strictObject({
  sha256: Sha256.meta({ description: 'Of the picture that it was made of' }),
  preset: z.string().max(1000),
  version: z.int().min(1),
  part: z.string().max(60).default(''),
  path: z.string().max(4000),
  width: z.int().min(1),
  height: z.int().min(1),
  bytes: z.int().min(0),
  madeAt: Time.nullable(),
});

/** A whole set (`set.json` in `*.set.zip`): what was decided, what it is made with, and what was made. */
export const SetFile = z
  .strictObject({
    kind: z.literal('rundle.set', { error: '"rundle.set"' }),
    version: z.literal(1, { error: '1, the only version of the set file this program knows' }),
    title: SetTitle,
    madeAt: Time,
    rights: StudioDetails,
    pictures: z.array(TravellingPicture).max(5000),
    decisions: DecisionsFile.meta({ description: 'As *.decisions.json has it' }),
    presets: Bundle.nullable().meta({ description: 'Those that are chosen, and those of the record; null: none' }),
    chosen: z.array(line(120, 1)).max(100).meta({ description: 'Titles of the presets that are chosen' }),
    record: z.array(RecordedFile).max(100_000),
  })
  .meta({ id: 'SetFile', title: 'Rundle set, version 1' });
export type SetFile = z.infer<typeof SetFile>;

/** What the description of a set is called in its ZIP. */
export const SET_FILE_NAME = 'set.json';

/** @param text UTF-8 text of a `set.json` @returns it, or one problem for each field that is wrong */
export function parseSetFile(text: string): Parsed<SetFile> {
  const json = jsonOrNull(text.replace(/^\uFEFF/, ''));
  if (json === null) return { ok: false, problems: [{ code: 'bundle-field', message: 'set.json is not valid JSON, or cut off.' }] };
  const parsed = SetFile.safeParse(json);
  return parsed.success
    ? { ok: true, value: parsed.data }
    : { ok: false, problems: fieldProblems(parsed.error, json, 'bundle-field', SetFile) };
}

/** What of a set file is to be done to the pictures of a set that has them: their order, and their marks. */
export function placedPictures(
  file: SetFile,
  masters: readonly { id: string; content: string | null }[],
): { order: string[]; marks: ({ masterId: z.infer<typeof Id> } & Marks)[]; missing: string[] } {
  const found = file.pictures.map((picture) => ({
    picture,
    // A contact sheet knows the first digits of a content only.
    master: masters.find(({ content }) => content !== null && content !== '' && picture.sha256.startsWith(content)) ?? null,
  }));
  return {
    order: found.flatMap(({ master }) => master?.id ?? []),
    marks: found.flatMap(({ master, picture: { stars, choice, tags } }) => (master ? [{ masterId: master.id, stars, choice, tags }] : [])),
    missing: found.flatMap(({ master, picture }) => (master ? [] : [picture.name])),
  };
}
