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
  for (const file of files) {
    const own = found.get(file.output.masterId);
    if (own) own.push(file);
    else found.set(file.output.masterId, [file]);
  }
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

/** What may be told of each picture, by its master. It is asked while a form is filled in: each preset and each picture is read once. */
async function aboutPictures(
  { sequelize }: Database,
  files: readonly Outgoing[],
): Promise<Map<string, Pick<GalleryPicture, 'text' | 'tags' | 'captured'>>> {
  const outputs = files.map(({ output }) => output);
  const ask = <Row extends object>(sql: string, ids: Iterable<string>): Promise<Row[]> =>
    sequelize.query<Row>(sql, { type: QueryTypes.SELECT, replacements: { ids: JSON.stringify([...new Set(ids)]) } });
  const [masters, runs, versions] = await Promise.all([
    ask<{ id: string; facts: unknown; tags: string[] }>(
      `SELECT id, facts, tags FROM masters WHERE id IN (${IDS})`,
      outputs.map(({ masterId }) => masterId),
    ),
    ask<{ id: string; studio: unknown }>(
      `SELECT id, studio FROM runs WHERE id IN (${IDS})`,
      outputs.map(({ runId }) => runId),
    ),
    ask<{ id: string; version: number; body: unknown }>(
      `SELECT preset_id AS id, version, body FROM preset_versions WHERE preset_id IN (${IDS})`,
      outputs.map(({ presetId }) => presetId),
    ),
  ]);
  const studios = new Map(runs.map(({ id, studio }) => [id, StudioDetails.parse(studio ?? {})]));
  const wanted = new Set(outputs.map(({ presetId, presetVersion }) => `${presetId} ${presetVersion}`));
  const presets = new Map(
    versions.flatMap(({ id, version, body }) =>
      wanted.has(`${id} ${version}`) ? [[`${id} ${version}`, Preset.parse(body)] as const] : [],
    ),
  );
  const byPicture = byMaster(files);
  return new Map(
    masters.map(({ id, facts: body, tags }) => {
      const own = byPicture.get(id)!.map(({ output }) => output);
      const facts = MasterFacts.parse(body);
      const made = [...new Set(own.map(({ presetId, presetVersion }) => presets.get(`${presetId} ${presetVersion}`)!))];
      return [id, { text: galleryText(facts, made, studios.get(own[0]!.runId)!), tags, captured: facts.captured }];
    }),
  );
}

const IDS = 'SELECT jsonb_array_elements_text(:ids::jsonb)::uuid';
