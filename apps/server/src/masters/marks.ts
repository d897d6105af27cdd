import { chosenPage, decidedAfter, type MarksChange, type MarksChanged, saidOf } from '@rundle/core';
import { type Database, decisionsOf, notify } from '@rundle/store';
import { QueryTypes, type Transaction } from 'sequelize';
import { inSet, queueReading } from './queue-reading';

/**
 * Writes new marks in one statement, however many pictures: what a change does not name keeps its value, each decision for itself. Pictures
 * of other sets are passed over.
 * @returns of each picture that was changed, how often it has been by now
 */
export async function changeMarks(database: Database, setId: string, changes: MarksChange['marks']): Promise<MarksChanged['revisions']> {
  const { sequelize } = database;
  return sequelize.transaction(async (transaction) => {
    const { marks, turned } = await withDecisions(database, setId, changes, transaction);
    const changed = await sequelize.query<{ id: string; revision: number }>(
      `UPDATE masters m SET
         stars = coalesce((c.change->>'stars')::int, m.stars),
         stars_set = m.stars_set OR c.change ? 'stars',
         choice = CASE WHEN c.change ? 'choice' THEN c.change->>'choice' ELSE m.choice END,
         tags = coalesce(c.change->'tags', m.tags),
         overrides = coalesce(c.change->'overrides', m.overrides)
       FROM jsonb_array_elements(:marks::jsonb) AS c(change)
       WHERE m.id = (c.change->>'masterId')::uuid AND m.set_id = :setId RETURNING m.id, m.revision`,
      { type: QueryTypes.SELECT, transaction, replacements: { marks: JSON.stringify(marks), setId } },
    );
    await notify(sequelize, { about: 'masters', setId, ids: marks.map(({ masterId }) => masterId) }, transaction);
    // Another page is another picture, of which nothing is known yet.
    const where = { ...inSet(setId), id: turned, state: ['ready', 'failed'] };
    const others = turned.length ? await database.masters.findAll({ where, transaction }) : [];
    if (others.length) {
      await database.masters.update({ state: 'arriving', problem: null }, { where, transaction });
      await queueReading(database, setId, others, transaction);
    }
    return Object.fromEntries(changed.map(({ id, revision }) => [id, revision]));
  });
}

/**
 * The same changes, each with everything that is decided about its picture then; the pictures are held until the transaction ends.
 * @returns also the pictures that become another page of their files
 */
async function withDecisions({ masters }: Database, setId: string, changes: MarksChange['marks'], transaction: Transaction) {
  const ids = changes.filter(({ overrides }) => overrides).map(({ masterId }) => masterId);
  // In one order, so that two changes never wait for one another.
  const rows = ids.length
    ? await masters.findAll({ attributes: ['id', 'overrides'], where: { setId, id: ids }, order: ['id'], transaction, lock: true })
    : [];
  const decided = new Map(rows.map((row) => [row.id, decisionsOf(row)]));
  const turned = new Set<string>();
  const marks = changes.map(({ overrides, ...marks }) => {
    const before = decided.get(marks.masterId);
    if (!overrides || !before) return marks;
    const after = decidedAfter(before, overrides);
    decided.set(marks.masterId, after);
    if (chosenPage(after.page) !== chosenPage(before.page)) turned.add(marks.masterId);
    return { ...marks, overrides: saidOf(after) };
  });
  return { marks, turned: [...turned] };
}

/** Numbers the pictures of a set anew. Those that are not named, as have just come in, keep their order behind the others. */
export async function putInOrder({ sequelize, sets }: Database, setId: string, masterIds: readonly string[]): Promise<void> {
  await sequelize.transaction(async (transaction) => {
    // The set's row is the lock that keeps an arriving picture from taking a position meanwhile.
    await sets.findByPk(setId, { transaction, lock: true });
    await sequelize.query(
      `UPDATE masters m SET position = o.position FROM (
         SELECT m2.id, (row_number() OVER (ORDER BY n.place NULLS LAST, m2.position))::int - 1 AS position
         FROM masters m2 LEFT JOIN jsonb_array_elements_text(:ids::jsonb) WITH ORDINALITY AS n(id, place) ON n.id = m2.id::text
         WHERE m2.set_id = :setId
       ) o WHERE o.id = m.id AND m.position <> o.position`,
      { transaction, replacements: { ids: JSON.stringify(masterIds), setId } },
    );
    await notify(sequelize, { about: 'order', setId, ids: [setId] }, transaction);
  });
}
