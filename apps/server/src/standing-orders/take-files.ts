import { basename, join } from 'node:path';
import { daySetTitle, type FileFate, type KnownFile, localDay, type MadeWithContent, type Problem, type SamePicture } from '@rundle/core';
import { type Database, type Files, type MasterRow, notify, notifyTopic, type SetRow, type StandingOrderRow } from '@rundle/store';
import { type SeenFile, seenNow } from '@rundle/watch';
import { Op, QueryTypes, type Transaction } from 'sequelize';
import { addFiles } from '../machine/add-files';
import { inSet, queueReading } from '../masters/queue-reading';
import { OPEN_STATES } from '../runs/open-runs';
import { MISSING } from './start-runs';

/** A file that has come to rest, with the SHA-256 of its bytes. */
export type RestedFile = SeenFile & { sha256: string };

/** What is on record of the files of an order, by path. Files that could not come in are looked at again. */
export async function knownFiles({ standingOrderFiles }: Database, orderId: string): Promise<Map<string, KnownFile[]>> {
  const rows = await standingOrderFiles.findAll({ where: { orderId, fate: ['left', 'own', 'taken', 'twin'] }, raw: true });
  const known = new Map<string, KnownFile[]>();
  for (const { path, bytes, mtimeMs, sha256 } of rows)
    known.set(path, [...(known.get(path) ?? []), { bytes: Number(bytes), mtimeMs, sha256 }]);
  return known;
}

/** What was made here with some content. */
export async function madeWith({ sequelize }: Database, { outputs }: Files, sha256: string): Promise<MadeWithContent[]> {
  const rows = await sequelize.query<{ target: string; folder: string; fileName: string; isCopy: boolean }>(
    `SELECT o.target, o.folder, o.file_name AS "fileName", m.sha256 IS NOT DISTINCT FROM o.content AS "isCopy"
     FROM outputs o LEFT JOIN masters m ON m.id = o.master_id WHERE o.content = :sha256 LIMIT 100`,
    { type: QueryTypes.SELECT, replacements: { sha256 } },
  );
  return rows.map(({ target, folder, fileName, isCopy }) => ({ path: join(outputs.pathOf(target) ?? target, folder, fileName), isCopy }));
}

/** Files of an order with some content, at other paths than a file has that has come. */
export async function sameElsewhere(
  { standingOrderFiles }: Database,
  orderId: string,
  { path, sha256 }: RestedFile,
): Promise<SamePicture[]> {
  const rows = await standingOrderFiles.findAll({ where: { orderId, sha256, fate: ['left', 'taken'], path: { [Op.ne]: path } } });
  return Promise.all(rows.map(async (row) => ({ path: row.path, isThere: (await seenNow(row.path)) !== null })));
}

/** A picture lies at another place now, or under another name: it is followed there, and is the same in its set. */
export async function followFile(database: Database, orderId: string, file: RestedFile): Promise<void> {
  const { sequelize, masters, outputs, standingOrderFiles } = database;
  const { path, bytes, mtimeMs, sha256 } = file;
  await sequelize.transaction(async (transaction) => {
    // What was told of it at its new place meanwhile, such as that it is a twin.
    await standingOrderFiles.destroy({ where: { orderId, path, fate: ['refused', 'twin'] }, transaction });
    const rows = await standingOrderFiles.findAll({
      where: { orderId, sha256, fate: ['left', 'taken'] },
      order: [['id', 'ASC']],
      transaction,
    });
    const [row] = rows;
    if (!row || rows.some((one) => one.path === path)) return;
    await row.update({ path, bytes, mtimeMs }, { transaction });
    const master = row.masterId && (await masters.findByPk(row.masterId, { transaction, lock: true }));
    if (master) {
      // Once it has outputs it keeps the name that they have.
      const isNamed = (await outputs.count({ where: { masterId: master.id }, transaction })) > 0;
      await master.update({ sourcePath: path, sourceMtimeMs: mtimeMs, ...(isNamed ? {} : { fileName: basename(path) }) }, { transaction });
      // A run that looked for it at its old place has made nothing of it: there is another.
      const [lost] = await sequelize.query<{ one: number }>(
        `SELECT 1 AS one FROM outputs o WHERE o.master_id = :id AND ${MISSING} LIMIT 1`,
        {
          type: QueryTypes.SELECT,
          replacements: { id: master.id },
          transaction,
        },
      );
      if (lost) await row.update({ settledAt: null }, { transaction });
      // It was looked for at its old place when it had gone from there.
      if (master.state === 'failed') {
        await master.update({ state: 'arriving', problem: null }, { transaction });
        await queueReading(database, master.setId, [master], transaction);
      }
      await notify(sequelize, { about: 'masters', setId: master.setId, ids: [master.id] }, transaction);
    }
    await notifyTopic(sequelize, 'standing-orders', transaction);
  });
}

/** Twins whose other has gone since: they were moved, and it was copied first. */
export async function leftTwins({ sequelize }: Database, orderId: string): Promise<{ file: RestedFile; other: string }[]> {
  const rows = await sequelize.query<RestedFile & { other: string }>(
    `SELECT DISTINCT ON (t.sha256) t.path, t.bytes::float8 AS bytes, t.mtime_ms AS "mtimeMs", t.sha256, o.path AS other
     FROM standing_order_files t JOIN standing_order_files o ON o.order_id = t.order_id AND o.sha256 = t.sha256 AND o.fate IN ('left', 'taken')
     WHERE t.order_id = :orderId AND t.fate = 'twin' ORDER BY t.sha256, t.path LIMIT 1000`,
    { type: QueryTypes.SELECT, replacements: { orderId } },
  );
  const gone = await Promise.all(rows.map(async ({ path, other }) => (await seenNow(other)) === null && (await seenNow(path)) !== null));
  return rows.filter((_, at) => gone[at]).map(({ other, ...file }) => ({ file, other }));
}

/** Writes down what became of files that are not taken; that one could not come in, once. */
export async function keepFates(
  { sequelize, standingOrderFiles }: Database,
  orderId: string,
  files: readonly (SeenFile & { sha256: string | null; fate: Exclude<FileFate, 'taken'>; problem: Problem | null })[],
): Promise<void> {
  const now = new Date();
  await sequelize.transaction(async (transaction) => {
    await standingOrderFiles.destroy({ where: { orderId, path: files.map(({ path }) => path), fate: 'refused' }, transaction });
    const rows = files.map((file) => ({ ...file, orderId, seenAt: now, settledAt: now }));
    await standingOrderFiles.bulkCreate(rows, { ignoreDuplicates: true, transaction });
    if (files.some(({ fate }) => fate === 'refused')) await notifyTopic(sequelize, 'standing-orders', transaction);
  });
}

/**
 * Gathers pictures into the set of the day, in the order given. A picture whose file holds another content now gives its place to the new
 * one, unless a run of the set goes on.
 * @returns what has to wait for the end of that run
 */
export async function takeFiles(database: Database, order: StandingOrderRow, files: readonly RestedFile[]): Promise<RestedFile[]> {
  const { sequelize, masters, runs, standingOrders, standingOrderFiles } = database;
  return sequelize.transaction(async (transaction) => {
    const isOn = await standingOrders.findOne({ where: { id: order.id, isOn: true, deletedAt: null }, transaction, lock: true });
    if (!isOn) return [];
    const set = await setOfDay(database, isOn, localDay(new Date()), transaction);
    const before = await masters.findAll({ where: { ...inSet(set.id), sourcePath: files.map(({ path }) => path) }, transaction });
    const busy = before.length > 0 && (await runs.count({ where: { setId: set.id, state: OPEN_STATES }, transaction })) > 0;
    const waits = ({ path }: RestedFile) => busy && before.some(({ sourcePath }) => sourcePath === path);
    const now = files.filter((file) => !waits(file));
    if (!busy) await giveWay(database, set.id, before, transaction);
    const rows = await addFiles(
      database,
      set.id,
      now.map((file) => ({ ...file, fileName: basename(file.path) })),
      transaction,
    );
    for (const old of busy ? [] : before) {
      const heir = rows.find(({ sourcePath }) => sourcePath === old.sourcePath);
      await heir?.update({ position: old.position }, { transaction });
      if (heir) await inherit(database, old.id, heir.id, transaction);
    }
    const paths = now.map(({ path }) => path);
    await standingOrderFiles.destroy({ where: { orderId: order.id, path: paths, fate: 'refused' }, transaction });
    await standingOrderFiles.bulkCreate(
      now.map((file) => ({
        ...file,
        orderId: order.id,
        fate: 'taken' as const,
        masterId: rows.find(({ sourcePath }) => sourcePath === file.path)?.id ?? null,
      })),
      { transaction },
    );
    await notifyTopic(sequelize, 'standing-orders', transaction);
    return files.filter(waits);
  });
}

/** A picture that takes the place of another gets its outputs, too, where the preset replaces: they give way to what is made of it. */
async function inherit({ sequelize }: Database, oldId: string, heirId: string, transaction: Transaction): Promise<void> {
  await sequelize.query(
    `UPDATE outputs o SET master_id = :heirId FROM presets p JOIN preset_versions v ON v.preset_id = p.id AND v.version = p.version
     WHERE o.master_id = :oldId AND o.is_current AND p.id = o.preset_id AND v.body->>'existing' = 'replace'`,
    { transaction, replacements: { oldId, heirId } },
  );
}

/** The set for the pictures of a day; one that was put into the bin is not filled any further. */
async function setOfDay({ sequelize, sets }: Database, order: StandingOrderRow, day: string, transaction: Transaction): Promise<SetRow> {
  const { id: standingOrderId, title, presetIds, place } = order;
  const found = await sets.findOne({ where: { standingOrderId, standingDay: day, deletedAt: null }, transaction });
  if (found) return found;
  await notifyTopic(sequelize, 'sets', transaction);
  return sets.create({ title: daySetTitle(title, day), presetIds, place, standingOrderId, standingDay: day }, { transaction });
}

/** Takes pictures out of a set whose files are others now. */
async function giveWay({ sequelize, masters }: Database, setId: string, rows: readonly MasterRow[], transaction: Transaction) {
  const ids = rows.map(({ id }) => id);
  await masters.update({ removedAt: new Date() }, { where: { id: ids }, transaction });
  await notify(sequelize, { about: 'masters', setId, ids }, transaction);
}
