import { FILE_GONE, problemOf } from '@rundle/core';
import { type Claim, finishClaim, type JobOf, type MasterRow, notify, sha256Of } from '@rundle/store';
import { type Context, inDatabase } from '../context';
import { faultPoint } from '../fault-point';

/** Reads the facts of a master that has come in and makes its small picture; problems are stored with it. */
export async function readMaster(context: Context, claim: Claim, { masterId }: JobOf<'read-master'>): Promise<void> {
  const { sequelize, masters } = context.database;
  const master = await inDatabase(context, () => masters.findByPk(masterId));
  const found = master && (await read(context, master));
  await inDatabase(context, () =>
    sequelize.transaction(async (transaction) => {
      if (!(await finishClaim(sequelize, claim, transaction)) || !found) return;
      // Looked up again: it may have got its first stars while it was being read, and those count more than the file's own.
      const row = await masters.findByPk(masterId, { transaction, lock: true });
      if (!row) return; // removed meanwhile
      const own = found.state === 'ready' && !row.starsSet ? { stars: found.facts.rating ?? 0, starsSet: true } : {};
      await row.update({ ...found, ...own }, { transaction });
      await notify(sequelize, { about: 'masters', setId: row.setId, ids: [row.id] }, transaction);
    }),
  );
}

async function read({ files, pool }: Context, master: MasterRow) {
  const { masters } = files;
  try {
    // A file of the machine may have changed again since it was noticed: it is read as it is now.
    const now = master.sourcePath === null ? null : await masters.standing(master.sourcePath);
    const stamp = now ? { bytes: now.bytes, sourceMtimeMs: now.mtimeMs } : {};
    const { fileName, sha256: known, sourcePath, sourceMtimeMs, bytes } = master;
    const path = await masters.bring({ fileName, sha256: known, sourcePath, sourceMtimeMs: sourceMtimeMs ?? null, bytes, ...stamp });
    const sha256 = known ?? (await sha256Of(path));
    const facts = await pool.facts(path, masters.smallPicturePath(sha256));
    faultPoint('read');
    return { state: 'ready' as const, sha256, facts, problem: null, ...stamp };
  } catch (error) {
    const gone = error instanceof Error && 'code' in error && error.code === 'ENOENT';
    const problem = gone ? FILE_GONE : problemOf(error, 'unreadable');
    return { state: 'failed' as const, facts: null, problem: { ...problem, file: master.fileName } };
  }
}
