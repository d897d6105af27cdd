import {
  type GalleryFile,
  type GalleryPicture,
  galleryText,
  layOut,
  MasterFacts,
  Preset,
  sourcesOf,
  StudioDetails,
  type NewDelivery,
  typeOfName,
} from '@rundle/core';
import { QueryTypes } from 'sequelize';
import type { Database } from '../database/connection';
import type { NewestOutput } from './newest-outputs';

/** A file that goes out. */
export interface Outgoing {
  path: string;
  output: NewestOutput;
}

/** Where the pictures of a gallery lie, from its page. */
const PICTURES = 'pictures';

/** Which of a set's files a delivery is about, in the order of the set. */
export function outgoingFiles(outputs: readonly NewestOutput[], { content, gallery }: NewDelivery): Outgoing[] {
  const files = layOut(outputs, content).map(({ file, path }) => ({ output: file, path }));
  if (!gallery) return files;
  const prefixed = files.map((file) => ({ ...file, path: `${PICTURES}/${file.path}` }));
  const shown = new Set(
    [...byMaster(prefixed).values()].flatMap((own) =>
      sourcesOf(own.map(galleryFile)).flatMap(({ files }) => files.map(({ path }) => path)),
    ),
  );
  return prefixed.filter(({ path }) => shown.has(path));
}

function galleryFile({ path, output }: Outgoing): GalleryFile {
  const { fileName, width, height, bytes } = output;
  return { path, type: typeOfName(fileName) ?? 'tiff', width, height, bytes: bytes ?? 0 };
}

function byMaster(files: readonly Outgoing[]): Map<string, Outgoing[]> {
  const found = new Map<string, Outgoing[]>();
  for (const file of files) found.set(file.output.masterId, [...(found.get(file.output.masterId) ?? []), file]);
  return found;
}

/** A picture of a gallery, without what is told of it. */
interface PictureFiles extends Pick<GalleryPicture, 'sources'> {
  masterId: string;
  files: readonly Outgoing[];
}

/** The files of the pictures of a gallery, in the order of the set. */
export const gallerySources = (files: readonly Outgoing[]): PictureFiles[] =>
  [...byMaster(files)]
    .map(([masterId, own]) => ({ masterId, files: own, sources: sourcesOf(own.map(galleryFile)) }))
    .filter(({ sources }) => sources.length > 0)
    .toSorted((a, b) => a.files[0]!.output.place - b.files[0]!.output.place);

/**
 * The pictures of a gallery, in the order of the set.
 * @param placeholders data addresses by the SHA-256 of files, as far as they are known
 */
export async function galleryPictures(
  database: Database,
  files: readonly Outgoing[],
  placeholders: ReadonlyMap<string, string>,
): Promise<GalleryPicture[]> {
  const about = await aboutPictures(database, files);
  return gallerySources(files).map(({ masterId, sources, files: own }): GalleryPicture => {
    const smallest = sources.at(-1)!.files[0]!.path;
    const content = own.find(({ path }) => path === smallest)?.output.content ?? '';
    return { id: masterId, ...about.get(masterId)!, sources, placeholder: placeholders.get(content) ?? null };
  });
}

/** What may be told of each picture, by its master. */
async function aboutPictures(
  { sequelize }: Database,
  files: readonly Outgoing[],
): Promise<Map<string, Pick<GalleryPicture, 'text' | 'tags' | 'captured'>>> {
  const rows = await sequelize.query<{ masterId: string; facts: unknown; tags: string[]; body: unknown; studio: unknown }>(
    `SELECT o.master_id AS "masterId", m.facts, m.tags, v.body, r.studio FROM outputs o
     JOIN masters m ON m.id = o.master_id JOIN runs r ON r.id = o.run_id
     JOIN preset_versions v ON v.preset_id = o.preset_id AND v.version = o.preset_version
     WHERE o.id IN (SELECT jsonb_array_elements_text(:ids::jsonb)::uuid)`,
    { type: QueryTypes.SELECT, replacements: { ids: JSON.stringify(files.map(({ output }) => output.id)) } },
  );
  const grouped = new Map<string, typeof rows>();
  for (const row of rows) grouped.set(row.masterId, [...(grouped.get(row.masterId) ?? []), row]);
  return new Map(
    [...grouped].map(([masterId, own]) => {
      const presets = own.map(({ body }) => Preset.parse(body));
      const facts = MasterFacts.parse(own[0]!.facts);
      const text = galleryText(facts, presets, StudioDetails.parse(own[0]!.studio ?? {}));
      return [masterId, { text, tags: own[0]!.tags, captured: facts.captured }];
    }),
  );
}
