import { createHash } from 'node:crypto';
import { keyOf, Measured } from '@rundle/core';
import type { SampleTask } from '@rundle/render';
import { QueryTypes, type Sequelize } from 'sequelize';

/** What of a task decides about its file. */
export type MeasuredTask = Pick<SampleTask, 'content' | 'facts' | 'making' | 'studio' | 'judged'>;

/**
 * What a whole file weighs and how it differs from the unencoded picture: as it was measured once, or measured now and kept.
 * @param watermark id of the one that the preset names; null: none
 * @throws what `measure` throws
 */
export async function keptMeasure(
  sequelize: Sequelize,
  { content, facts, making, studio, judged }: MeasuredTask,
  watermark: string | null,
  measure: () => Promise<Measured>,
): Promise<Measured> {
  const key = (depends: 'bytes' | 'judged') =>
    createHash('sha256')
      .update(keyOf(depends, { content, facts, preset: making.preset, studio, watermark }))
      .digest('hex');
  const known = await sequelize.query<{ measured: unknown }>('SELECT measured FROM measured_outputs WHERE recipe IN (:keys)', {
    replacements: { keys: judged ? [key('judged')] : [key('judged'), key('bytes')] },
    type: QueryTypes.SELECT,
  });
  for (const one of known) {
    // One of an earlier release may not say all that is wanted by now.
    const kept = Measured.safeParse(one.measured);
    if (kept.success) return kept.data;
  }
  const measured = await measure();
  await sequelize.query(
    `INSERT INTO measured_outputs (recipe, content, measured) VALUES (:recipe, :content, :measured)
     ON CONFLICT (recipe) DO UPDATE SET measured = excluded.measured, measured_at = now()`,
    { replacements: { recipe: key(judged ? 'judged' : 'bytes'), content, measured: JSON.stringify(measured) } },
  );
  return measured;
}
