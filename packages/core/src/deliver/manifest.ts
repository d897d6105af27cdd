import * as z from 'zod';
import { ENCODED_TYPE_NAMES } from '../types/table';
import { Cells } from './cells';
import { fieldProblems, jsonOrNull, type Parsed } from '../preset/parse';

const Sha256 = z.string().regex(/^[0-9a-f]{64}$/);

/** What is known of a picture's file, so that it can be told again, also when somebody has changed it. */
export const SeenFile = z.strictObject({
  path: z.string().min(1).max(4000).meta({ description: 'Below the folder or in the ZIP, with / between folders' }),
  bytes: z.int().min(1),
  sha256: Sha256.meta({ description: 'Of the whole file' }),
  type: z.enum(ENCODED_TYPE_NAMES),
  width: z.int().min(1),
  height: z.int().min(1),
  coded: Sha256.nullable().meta({ description: 'Of a JPEG without what is told beside its pixels; null: another type' }),
  quality: z.int().min(1).max(100).nullable().meta({ description: 'By the quantisation tables of a JPEG; null: another type' }),
  likeness: z
    .string()
    .regex(/^[0-9a-f]{16}$/)
    .meta({ description: 'Difference hash of what it looks like' }),
  cells: Cells.nullable().default(null).meta({ description: 'Its colours, coarsely; null: a manifest of an earlier release' }),
});
export type SeenFile = z.infer<typeof SeenFile>;

/** A delivered file, and what made it. */
export const ManifestFile = SeenFile.extend({
  master: z.string().max(1000).meta({ description: 'Name of the master' }),
  preset: z.string().max(1000),
  version: z.int().min(1).nullable().meta({ description: 'Of the preset; null: it has none, on the command line' }),
  part: z
    .string()
    .min(1)
    .max(60)
    .optional()
    .meta({ description: 'Which of the files that the preset makes of a picture, where it makes several' }),
});
export type ManifestFile = z.infer<typeof ManifestFile>;

/** A page of a gallery, or what belongs to it. */
export const ManifestPage = SeenFile.pick({ path: true, bytes: true, sha256: true });
export type ManifestPage = z.infer<typeof ManifestPage>;

/** What was delivered: lies beside the files, so that they can be held against it later. */
export const Manifest = z
  .strictObject({
    kind: z.literal('rundle.manifest'),
    version: z.literal(1),
    set: z.string().max(1000),
    madeAt: z.iso.datetime(),
    files: z.array(ManifestFile).max(100_000),
    pages: z.array(ManifestPage).max(1000).default([]).meta({ description: 'What was made for the delivery beside the pictures' }),
  })
  .meta({ id: 'Manifest', title: 'Rundle manifest', description: 'What was delivered, file by file' });
export type Manifest = z.infer<typeof Manifest>;

/** The manifest as JSON Schema, draft 2020-12. */
export const manifestJsonSchema = (): object => z.toJSONSchema(Manifest, { target: 'draft-2020-12' });

/** What a manifest is called beside the files. */
export const MANIFEST_NAME = 'manifest.json';

/** @param text UTF-8 text of a manifest @returns it, or one problem for each field that is wrong */
export function parseManifestText(text: string): Parsed<Manifest> {
  const json = jsonOrNull(text.replace(/^\uFEFF/, ''));
  if (json === null) return { ok: false, problems: [{ code: 'manifest-field', message: 'It is not valid JSON, or cut off.' }] };
  const parsed = Manifest.safeParse(json);
  return parsed.success
    ? { ok: true, value: parsed.data }
    : { ok: false, problems: fieldProblems(parsed.error, json, 'manifest-field', Manifest) };
}
