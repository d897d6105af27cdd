import { pipeline } from 'node:stream/promises';
import { type Bundle, bundleOf, fileSafe, joinPath, SET_FILE_NAME, type SetFile, StudioDetails } from '@rundle/core';
import { storedZip, type ZipEntry } from '@rundle/place';
import { type Database, type MasterRow, newestOutputs, type SetRow, travellingMark } from '@rundle/store';
import type { Response } from 'express';
import { decisionsOfSet } from '../masters/decisions';
import { inSet } from '../masters/queue-reading';
import { listPresets } from '../presets/stored';
import type { Stores } from '../services';
import { findSet } from './find';

/**
 * Sends a whole set as one ZIP that anybody can open: a description, and the masters where they are to go along.
 * @throws HttpProblem before the first byte
 */
export async function sendSetFile({ database, files }: Stores, setId: string, withMasters: boolean, response: Response): Promise<void> {
  const set = await findSet(database, setId);
  const rows = (await database.masters.findAll({ where: inSet(setId), order: ['position'] })).filter(({ sha256 }) => sha256);
  const paths = new Map<string, string>();
  if (withMasters)
    for (const [at, row] of rows.entries()) {
      const opened = await files.masters.open(row);
      await opened?.close();
      // One that is not there as it was brought in is described, and does not go along.
      if (opened) paths.set(row.id, `masters/${String(at + 1).padStart(4, '0')} ${fileSafe(row.fileName)}`);
    }
  const description = JSON.stringify(await describe(database, set, rows, paths), null, 2);
  const entries = rows.flatMap((row): ZipEntry[] => {
    const path = paths.get(row.id);
    const open = async () => {
      const opened = await files.masters.open(row);
      if (!opened) throw new Error(`${row.fileName} has gone while it was packed.`);
      return opened.read();
    };
    return path ? [{ path, bytes: Number(row.bytes), open }] : [];
  });
  const { output, size } = await storedZip(entries, new Date(), new Map([[SET_FILE_NAME, Buffer.from(description)]]));
  response.once('close', () => output.destroy());
  response.setHeader('Content-Type', 'application/zip');
  response.setHeader('Content-Length', size);
  response.setHeader('Cache-Control', 'private, no-store');
  response.attachment(`${fileSafe(set.title)}.set.zip`);
  await pipeline(output, response).catch((error: unknown) => {
    if (!response.destroyed) throw error; // otherwise the client disconnected half-way
  });
}

async function describe(database: Database, set: SetRow, rows: readonly MasterRow[], paths: ReadonlyMap<string, string>): Promise<SetFile> {
  const outputs = await newestOutputs(database, set.id);
  const stored = await listPresets(database, [...new Set([...set.presetIds, ...outputs.map(({ presetId }) => presetId)])]);
  const contents = new Map(rows.map(({ id, sha256 }) => [id, sha256!]));
  return {
    kind: 'rundle.set',
    version: 1,
    title: set.title,
    madeAt: new Date().toISOString(),
    rights: StudioDetails.parse(set.rights),
    pictures: rows.map(({ id, sha256, fileName, bytes, stars, choice, tags }) => ({
      sha256: sha256!,
      name: fileName,
      bytes: Number(bytes),
      stars,
      choice,
      tags,
      master: paths.get(id) ?? null,
    })),
    decisions: await decisionsOfSet(database, set.id),
    presets: await bundleFor(
      database,
      set.title,
      stored.map(({ preset }) => preset),
    ),
    chosen: set.presetIds.flatMap((id) => stored.find((one) => one.id === id)?.preset.title ?? []),
    record: outputs.flatMap(({ masterId, presetTitle, presetVersion, part, folder, fileName, width, height, bytes, finishedAt }) => {
      const sha256 = contents.get(masterId);
      if (!sha256) return [];
      const path = joinPath(folder, fileName);
      return [
        {
          sha256,
          preset: presetTitle,
          version: presetVersion,
          part,
          path,
          width,
          height,
          bytes: bytes ?? 0,
          madeAt: finishedAt?.toISOString() ?? null,
        },
      ];
    }),
  };
}

/** Presets with the watermarks that they name; those whose watermark is gone stay at home. */
async function bundleFor({ watermarks }: Database, title: string, presets: Bundle['presets']): Promise<Bundle | null> {
  const named = new Set(presets.flatMap(({ mark }) => mark?.watermark ?? []));
  const marks = (await watermarks.findAll({ where: { id: [...named] } })).map(travellingMark);
  const there = new Set(marks.map(({ id }) => id));
  const whole = presets.filter(({ mark }) => mark === null || there.has(mark.watermark));
  return whole.length ? bundleOf(title, whole, marks) : null;
}
