import { type Problem, problemOf } from '@rundle/core';
import { type Claim, drawableMark, finishClaim, type JobOf, notifyTopic, type WatermarkRow } from '@rundle/store';
import { type Context, inDatabase } from '../context';

/** Draws a new watermark once; problems are stored with it. */
export async function checkWatermark(context: Context, claim: Claim, { watermarkId }: JobOf<'check-watermark'>): Promise<void> {
  const { sequelize, watermarks } = context.database;
  const row = await inDatabase(context, () => watermarks.findByPk(watermarkId));
  const problem = row && (await refusal(context, row));
  await inDatabase(context, () =>
    sequelize.transaction(async (transaction) => {
      if (!(await finishClaim(sequelize, claim, transaction))) return;
      await watermarks.update({ state: problem ? 'refused' : 'ready', problem }, { where: { id: watermarkId }, transaction });
      await notifyTopic(sequelize, 'watermarks', transaction);
    }),
  );
}

async function refusal({ pool }: Context, row: WatermarkRow): Promise<Problem | null> {
  try {
    await pool.checkWatermark(drawableMark(row));
    return null;
  } catch (error) {
    return problemOf(error, 'watermark-unreadable');
  }
}
