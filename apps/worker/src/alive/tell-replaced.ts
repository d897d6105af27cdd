import { finding } from '@rundle/core';
import { type Database, notify, STALLED_AFTER } from '@rundle/store';
import { QueryTypes } from 'sequelize';

const REPLACED = finding(
  'worker-replaced',
  `The program that was making this had not answered for ${STALLED_AFTER / 60} minutes and was replaced; another makes it now.`,
);

/** Tells the pages, beside the outputs concerned, that somebody else makes them now. @param keys of the work that was taken over */
export async function tellReplaced({ sequelize }: Database, keys: readonly string[]): Promise<void> {
  await sequelize.transaction(async (transaction) => {
    const rows = await sequelize.query<{ id: string; setId: string }>(
      `UPDATE outputs o SET warnings = o.warnings || :finding::jsonb
       FROM work w JOIN runs r ON r.id = w.run_id
       WHERE w.key IN (SELECT jsonb_array_elements_text(:keys::jsonb)) AND o.run_id = w.run_id AND o.master_id = w.master_id
         AND o.state IN ('planned', 'running')
       RETURNING o.id, r.set_id AS "setId"`,
      {
        type: QueryTypes.SELECT,
        transaction,
        replacements: { finding: JSON.stringify([REPLACED]), keys: JSON.stringify(keys) },
      },
    );
    for (const { id, setId } of rows) await notify(sequelize, { about: 'outputs', setId, ids: [id] }, transaction);
  });
}
