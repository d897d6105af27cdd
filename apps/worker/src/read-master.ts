import { FILE_GONE, problemOf } from '@rundle/core';
import type { RenderPool } from '@rundle/render';
import { type Database, type JobOf, notify, sha256Of, type Storage } from '@rundle/store';

/** Reads the facts of a master that has come in and makes its small picture; what is wrong is written down beside it. */
export async function readMaster(
  { masterId }: JobOf<'read-master'>,
  database: Database,
  storage: Storage,
  pool: RenderPool,
): Promise<void> {
  const master = await database.masters.findByPk(masterId);
  if (!master) return; // taken out again meanwhile
  try {
    const path = storage.placeOf(master);
    const sha256 = master.sha256 ?? (await sha256Of(path));
    const facts = await pool.facts(path, storage.proxy(sha256));
    // The file's own rating is where the stars begin; one that has changed keeps those it has got since.
    const stars = master.facts ? master.stars : (facts.rating ?? 0);
    await master.update({ state: 'ready', sha256, facts, problem: null, stars });
  } catch (error) {
    const gone = error instanceof Error && 'code' in error && error.code === 'ENOENT';
    const problem = gone ? FILE_GONE : problemOf(error, 'unreadable');
    await master.update({ state: 'failed', facts: null, problem: { ...problem, file: master.fileName } });
  }
  await notify(database.sequelize, { about: 'masters', setId: master.setId, ids: [master.id] });
}
