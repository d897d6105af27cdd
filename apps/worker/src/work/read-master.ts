import { FILE_GONE, MasterFacts, problemOf, READER } from '@rundle/core';
import { sha256Of } from '@rundle/place';
import {
  addMeasuring,
  adoptOutputs,
  type Claim,
  finishClaim,
  type JobOf,
  type MasterRow,
  notify,
  pageOf,
  type Reading,
  writeReading,
} from '@rundle/store';
import { type Context, inDatabase } from '../context';
import { faultPoint } from '../fault-point';

/** Reads the facts of a master that has come in and makes its small picture; problems are stored with it. */
export async function readMaster(context: Context, claim: Claim, { masterId }: JobOf<'read-master'>): Promise<void> {
  const { sequelize, masters } = context.database;
  const master = await inDatabase(context, () => masters.findByPk(masterId));
  const found = master && (await read(context, master));
  if (found && (await inDatabase(context, () => writeReading(sequelize, claim, master, found)))) return;
  await inDatabase(context, () =>
    sequelize.transaction(async (transaction) => {
      if (!(await finishClaim(sequelize, claim, transaction)) || !found) return;
      // Looked up again: it may have got its first stars while it was being read, and those count more than the file's own.
      const row = await masters.findByPk(masterId, { transaction, lock: true });
      if (!row) return; // removed meanwhile
      // It was looked for where it lay before: rolled back, it is read once more.
      if (row.sourcePath !== master.sourcePath) throw new Error('The file was moved while it was read.');
      if (pageOf(row) !== pageOf(master)) throw new Error('Another page of it was chosen while it was read.');
      const own = found.state === 'ready' && !row.starsSet ? { stars: found.facts?.rating ?? 0, starsSet: true } : {};
      await row.update({ ...found, ...own }, { transaction });
      // Thumbnails of all pictures come before a weight of any.
      if (found.facts?.weighings.length === 0) await addMeasuring(sequelize, 'weigh-master', [row.id], { how: 'small', transaction });
      // A file of the machine is known by its content only now.
      if (master.sha256 === null) await adoptOutputs(sequelize, row.setId, transaction);
      await notify(sequelize, { about: 'masters', setId: row.setId, ids: [row.id] }, transaction);
    }),
  );
}

async function read(context: Context, master: MasterRow): Promise<Reading> {
  const { files, pool } = context;
  const { masters } = files;
  try {
    // A file of the machine may have changed again since it was noticed: it is read as it is now.
    const now = master.sourcePath === null ? null : await masters.standing(master.sourcePath);
    const stamp = now ? { bytes: now.bytes, sourceMtimeMs: now.mtimeMs } : {};
    const { fileName, sha256: known, sourcePath, sourceMtimeMs, bytes } = master;
    const place = { fileName, sha256: known, sourcePath, sourceMtimeMs: sourceMtimeMs ?? null, bytes, ...stamp };
    const { path, close } = await masters.bring(place);
    try {
      const sha256 = known ?? (await sha256Of(path));
      const page = pageOf(master);
      const facts = (await knownFacts(context, sha256, page)) ?? (await pool.facts(path, masters.smallPicturePath(sha256, page), page));
      faultPoint('read');
      return { state: 'ready' as const, sha256, facts, problem: null, ...stamp };
    } finally {
      await close();
    }
  } catch (error) {
    const gone = error instanceof Error && 'code' in error && error.code === 'ENOENT';
    const problem = gone ? FILE_GONE : problemOf(error, 'unreadable');
    return { state: 'failed' as const, facts: null, problem: { ...problem, file: master.fileName } };
  }
}

/** What was found out before of the same content, in any set: photographers bring a picture in more than once. */
async function knownFacts(context: Context, sha256: string, page: number | null): Promise<MasterFacts | null> {
  const { database, files } = context;
  const twins = await inDatabase(context, () =>
    database.masters.findAll({
      where: { sha256, state: 'ready', facts: { reader: READER } },
      attributes: ['facts', 'overrides'],
      limit: 20,
    }),
  );
  const same = twins.filter((twin) => pageOf(twin) === page);
  const known = same.map(({ facts }) => MasterFacts.parse(facts)).filter(({ metadataUnread }) => !metadataUnread);
  const small = known.length ? await files.masters.openSmallPicture(sha256, page) : null;
  await small?.close();
  // The one that was weighed at the most sizes.
  return small && (known.sort((one, other) => other.weighings.length - one.weighings.length)[0] ?? null);
}
