import { changeIn, type DecisionsFile, decisionsFile, idsByTitle, type MatchedDecisions } from '@rundle/core';
import { type Database, decisionsOf } from '@rundle/store';
import { listPresets } from '../presets/stored';
import { inSet } from './queue-reading';

/** What was decided about the pictures of a set, as a file. */
export async function decisionsOfSet(database: Database, setId: string): Promise<DecisionsFile> {
  const rows = await database.masters.findAll({
    where: inSet(setId),
    order: ['position'],
    attributes: ['fileName', 'sha256', 'overrides'],
  });
  const presets = await listPresets(database);
  const pictures = rows.flatMap((row) => (row.sha256 ? [{ sha256: row.sha256, fileName: row.fileName, decisions: decisionsOf(row) }] : []));
  return decisionsFile(pictures, new Map(presets.map(({ id, preset }) => [id, preset.title])));
}

/** What a file says of the pictures of a set, as changes of what was decided about them. */
export async function matchDecisions(database: Database, setId: string, file: DecisionsFile): Promise<MatchedDecisions> {
  const rows = await database.masters.findAll({ where: inSet(setId), attributes: ['id', 'sha256'] });
  const presets = await listPresets(database);
  const ids = idsByTitle(presets.map(({ id, preset }) => ({ id, title: preset.title })));
  const byContent = new Map(file.pictures.map((picture) => [picture.sha256, picture]));
  const marks = rows.flatMap(({ id, sha256 }) => {
    const picture = byContent.get(sha256 ?? '');
    return picture ? [{ masterId: id, overrides: changeIn(picture, ids) }] : [];
  });
  const found = new Set(rows.map(({ sha256 }) => sha256));
  return { marks, others: file.pictures.filter(({ sha256 }) => !found.has(sha256)).length };
}
