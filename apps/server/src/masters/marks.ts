import type { MarksChange } from '@rundle/core';
import { type Database, notify } from '@rundle/store';

/** The pictures of a set that are not in its bin. */
export const inSet = (setId: string) => ({ setId, removedAt: null });

/**
 * Writes new marks in one statement, however many pictures: what a change does not name keeps its value. Pictures of other
 * sets are passed over.
 */
export async function changeMarks({ sequelize }: Database, setId: string, marks: MarksChange['marks']): Promise<void> {
  await sequelize.transaction(async (transaction) => {
    await sequelize.query(
      `UPDATE masters m SET
         stars = coalesce((c.change->>'stars')::int, m.stars),
         stars_set = m.stars_set OR c.change ? 'stars',
         choice = CASE WHEN c.change ? 'choice' THEN c.change->>'choice' ELSE m.choice END,
         tags = coalesce(c.change->'tags', m.tags),
         overrides = coalesce(c.change->'overrides', m.overrides)
       FROM jsonb_array_elements(:marks::jsonb) AS c(change)
       WHERE m.id = (c.change->>'masterId')::uuid AND m.set_id = :setId`,
      { transaction, replacements: { marks: JSON.stringify(marks), setId } },
    );
    await notify(sequelize, { about: 'masters', setId, ids: marks.map(({ masterId }) => masterId) }, transaction);
  });
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
