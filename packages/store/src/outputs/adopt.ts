import { QueryTypes, type Sequelize, type Transaction } from 'sequelize';

/**
 * A picture that was removed and brought in again is the same one: its current outputs become those of the picture that is in the set now. To be
 * called whenever pictures have come, gone or come back.
 */
export async function adoptOutputs(sequelize: Sequelize, setId: string, transaction?: Transaction): Promise<void> {
  // Few sets have any, and whether this one has is found at once. What follows is planned badly while nothing is known of new tables: a folder of two
  // thousand pictures, each of which asks, took half of its time here.
  const removed = await sequelize.query('SELECT FROM masters WHERE set_id = :setId AND removed_at IS NOT NULL LIMIT 1', {
    type: QueryTypes.SELECT,
    replacements: { setId },
    transaction: transaction ?? null,
  });
  if (removed.length === 0) return;
  await sequelize.query(
    `UPDATE outputs o SET master_id = found.heir FROM (
       SELECT DISTINCT ON (heir.id, o.preset_id, o.part) o.id, heir.id AS heir
       FROM outputs o JOIN masters old ON old.id = o.master_id
       JOIN masters heir ON heir.set_id = old.set_id AND heir.sha256 = old.sha256 AND heir.removed_at IS NULL
       WHERE old.set_id = :setId AND old.removed_at IS NOT NULL AND o.is_current
         AND NOT EXISTS (SELECT FROM outputs its WHERE its.is_current AND its.master_id = heir.id AND its.preset_id = o.preset_id AND its.part = o.part)
       ORDER BY heir.id, o.preset_id, o.part, o.finished_at DESC
     ) found WHERE o.id = found.id`,
    { type: QueryTypes.UPDATE, replacements: { setId }, transaction: transaction ?? null },
  );
}
