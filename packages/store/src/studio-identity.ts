import { randomUUID } from 'node:crypto';
import { readFile, rename, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { QueryTypes } from 'sequelize';
import * as z from 'zod';
import type { Database } from './database/connection';
import type { Masters } from './files/masters';
import { codeOf } from '@rundle/place';

/** Below the data folder: which studio it belongs to. The start script knows this name, too. */
const FILE = 'studio.json';

const Identity = z.object({ id: z.string().min(1) });

export type StudioDecision = '' | 'new' | 'moved';

/** Database and data folder do not belong together. The message says what was found and how to go on. */
export class ForeignDatabase extends Error {}

/**
 * Holds database and data folder against each other: both carry the id of their studio. What was made before there were ids adopts one, once.
 * @param decided what a person has said: `new`, an empty database beside masters is wanted, a new studio, which leaves them alone; `moved`, both belong
 * together, whatever it looks like
 * @throws ForeignDatabase when an empty database stands beside masters or a folder that has been used, or one that is another studio's
 */
export async function claimStudio(
  database: Database,
  masters: Pick<Masters, 'list'>,
  data: string,
  decided: StudioDecision = '',
): Promise<void> {
  const [folder, owner] = [await identityOf(data), await identityIn(database)];
  if (folder !== null && folder === owner) return;
  const there = (await masters.list()).filter(({ isMaster }) => isMaster).map(({ sha256 }) => sha256);
  const isEmpty = (await database.studio.count()) === 0;
  // A folder that has been used has had a database, also where its pictures lie elsewhere.
  const isUsed = there.length > 0 || (folder !== null && owner === null);
  if (isEmpty && isUsed && decided !== 'new') throw new ForeignDatabase(EMPTY(data, there.length));
  const isAnother = !isEmpty && (folder !== null && owner !== null ? true : there.length > 0 && !(await knowsOneOf(database, there)));
  if (isAnother && decided !== 'moved') throw new ForeignDatabase(FOREIGN(data, there.length));
  const id = owner ?? (isEmpty && decided === 'new' ? null : folder) ?? randomUUID();
  await database.sequelize.query(
    // A database that has sets already is older than this table: its first set tells since when, its pictures came a little earlier.
    `INSERT INTO studio_identity (id, begun)
     VALUES (:id, least(now(), (SELECT min(created_at) - interval '1 day' FROM sets))) ON CONFLICT DO NOTHING`,
    { replacements: { id } },
  );
  const own = (await identityIn(database)) ?? id;
  const path = join(data, FILE);
  await writeFile(`${path}.part`, `${JSON.stringify({ id: own, ...(folder && folder !== own ? { before: folder } : {}) })}\n`);
  await rename(`${path}.part`, path);
}

/** Since when the database of this studio has been there. */
export async function studioBegun({ sequelize }: Database): Promise<Date> {
  const [row] = await sequelize.query<{ begun: Date }>('SELECT begun FROM studio_identity', { type: QueryTypes.SELECT });
  // Where nobody has claimed it, nothing is known to be its own.
  return row ? new Date(row.begun) : new Date();
}

async function identityOf(data: string): Promise<string | null> {
  const path = join(data, FILE);
  const text = await readFile(path, 'utf8').catch((error: unknown) => {
    if (codeOf(error) === 'ENOENT') return null;
    throw error;
  });
  if (text === null) return null;
  try {
    return Identity.parse(JSON.parse(text)).id;
  } catch {
    return null; // half written: the database says whose it is
  }
}

async function identityIn({ sequelize }: Database): Promise<string | null> {
  const [row] = await sequelize.query<{ id: string }>('SELECT id FROM studio_identity', { type: QueryTypes.SELECT });
  return row?.id ?? null;
}

async function knowsOneOf({ sequelize }: Database, hashes: readonly string[]): Promise<boolean> {
  const [found] = await sequelize.query<{ known: boolean }>(
    'SELECT EXISTS (SELECT FROM masters WHERE sha256 IN (SELECT jsonb_array_elements_text(:hashes::jsonb))) AS known',
    { type: QueryTypes.SELECT, replacements: { hashes: JSON.stringify(hashes) } },
  );
  return found?.known ?? false;
}

const pictures = (count: number): string => (count === 1 ? '1 uploaded picture' : `${count} uploaded pictures`);

const EMPTY = (data: string, count: number): string =>
  `The data folder ${data} holds ${pictures(count)}, but its database is empty: it knows none of them. Nothing was changed.
Put the database back that belongs to this folder (its folder "postgres", what where-the-database-is.txt names, or the address that
RUNDLE_DATABASE_URL had), then start again. A studio moves to another database by npm run backup and npm run restore.
To begin as a new studio that leaves those pictures where they are: RUNDLE_STUDIO=new npm start`;

const FOREIGN = (data: string, count: number): string =>
  `The data folder ${data} (${pictures(count)}) and its database belong to different studios. Nothing was changed.
Put the database back that belongs to this folder (its folder "postgres", or what where-the-database-is.txt names), or start with the
folder that belongs to this database (RUNDLE_DATA=FOLDER). If they do belong together: RUNDLE_STUDIO=moved npm start`;
