import { joinPath } from '@rundle/core';
import type { OpenFile } from '@rundle/place';
import { QueryTypes, type Sequelize, type Transaction } from 'sequelize';
import type { OutputRow } from '../database/rows';
import type { OutputPlace, Outputs } from '../files/outputs';

/** What is on record of the file of an output. */
export type OnRecord = Pick<OutputRow, 'id' | 'target' | 'folder' | 'fileName' | 'bytes' | 'content'> & {
  mark?: string | null;
  finishedAt?: Date | null;
};

/** What has become of a file: it stands as it was made, somebody has changed it, or there is none at its place. */
export type FileState = 'stands' | 'changed' | 'missing';

/** Files whose content is read at a time. */
const READ_AT_ONCE = 4;

/** How far the clock of a disk may be from that of the database, in ms. */
const CLOCKS = 5000;

/**
 * Looks at the files of outputs as they lie on the disk. What bears the mark that is on record is unchanged; of all others the content is read,
 * and what turns out to be unchanged gets its new mark on record.
 * @param since how old, in ms, a look into a folder may be in which nothing has come or gone
 * @returns their states by the id of the output
 */
export async function lookAt(
  sequelize: Sequelize,
  outputs: Outputs,
  rows: readonly OnRecord[],
  since = 0,
): Promise<Map<string, FileState>> {
  const folders = new Map<string, Set<string>>();
  for (const { target, folder } of rows) folders.set(target, (folders.get(target) ?? new Set()).add(folder));
  const marks = new Map<string, ReadonlyMap<string, string>>();
  for (const [target, names] of folders) marks.set(target, await outputs.standing(target, [...names], since));
  return statesOf(sequelize, outputs, rows, (target, path) => marks.get(target)?.get(path));
}

/** The same, where the folders have been looked into already. @param markAt mark of what stands at a path of a target @param transaction in which rows may be held */
export async function statesOf(
  sequelize: Sequelize,
  outputs: Outputs,
  rows: readonly OnRecord[],
  markAt: (target: string, path: string) => string | undefined,
  transaction?: Transaction,
): Promise<Map<string, FileState>> {
  const states = new Map<string, FileState>();
  const unsure: { row: OnRecord; mark: string }[] = [];
  for (const row of rows) {
    const mark = markAt(row.target, joinPath(row.folder, row.fileName));
    if (mark === undefined) states.set(row.id, 'missing');
    else if (mark === row.mark) states.set(row.id, 'stands');
    else unsure.push({ row, mark });
  }
  if (unsure.length === 0) return states;
  const found: { content: string | null; mark: string }[] = [];
  for (let start = 0; start < unsure.length; start += READ_AT_ONCE)
    found.push(...(await Promise.all(unsure.slice(start, start + READ_AT_ONCE).map(({ row, mark }) => readOnce(outputs, row, mark)))));
  const known: { id: string; mark: string; content: string }[] = [];
  for (const [index, { row }] of unsure.entries()) {
    const { content, mark } = found[index]!;
    const isUnchanged = content !== null && (content === row.content || (row.content === null && isAsFinished(row, mark)));
    states.set(row.id, content === null ? 'missing' : isUnchanged ? 'stands' : 'changed');
    if (isUnchanged) known.push({ id: row.id, mark, content });
  }
  if (known.length)
    await sequelize.query(
      `UPDATE outputs o SET mark = k.mark, content = coalesce(o.content, k.content)
       FROM jsonb_to_recordset(:known::jsonb) AS k(id uuid, mark text, content text) WHERE o.id = k.id`,
      { type: QueryTypes.UPDATE, replacements: { known: JSON.stringify(known) }, transaction: transaction ?? null },
    );
  return states;
}

/** Contents that were read, by place and mark: what somebody has changed is not read at each look. */
const contents = new Map<string, string>();
const MOST_CONTENTS = 20_000;

async function readOnce(outputs: Outputs, place: OutputPlace, mark: string): Promise<{ content: string | null; mark: string }> {
  const key = `${place.target}\n${place.folder}\n${place.fileName}\n${mark}`;
  const known = contents.get(key);
  if (known !== undefined) return { content: known, mark };
  const file = await outputs.open(place);
  if (!file) return { content: null, mark };
  try {
    const content = await file.sha256();
    if (contents.size > MOST_CONTENTS) contents.clear();
    if (file.mark === mark) contents.set(key, content);
    return { content, mark: file.mark };
  } finally {
    await file.close();
  }
}

/** Outputs of the first releases have no content on record: what has their weight, and has not been touched since they were finished, is theirs. */
function isAsFinished({ bytes, finishedAt }: OnRecord, mark: string): boolean {
  const [, , size, mtimeNs] = mark.split(' ').map(Number);
  return size === bytes && finishedAt instanceof Date && mtimeNs! / 1e6 <= finishedAt.getTime() + CLOCKS;
}

/** Opens the file of an output as it was made; null where there is none, or where somebody has changed it. */
export async function openAsMade(outputs: Outputs, row: OnRecord): Promise<OpenFile | null> {
  const file = await outputs.open(row);
  if (!file) return null;
  const isMade = file.mark === row.mark || (row.content === null ? file.bytes === row.bytes : (await file.sha256()) === row.content);
  if (isMade) return file;
  await file.close();
  return null;
}
