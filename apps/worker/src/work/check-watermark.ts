import { fileURLToPath } from 'node:url';
import type { Problem } from '@rundle/core';
import { type Claim, drawableMark, finishClaim, type JobOf, markProblem, notifyTopic, type WatermarkRow } from '@rundle/store';
import { type Context, inDatabase } from '../context';

/** Draws a new watermark once; problems are stored with it. */
export async function checkWatermark(context: Context, claim: Claim, { watermarkId }: JobOf<'check-watermark'>): Promise<void> {
  const { sequelize, watermarks } = context.database;
  const row = await inDatabase(context, () => watermarks.findByPk(watermarkId));
  const problem = row && (await refusal(row));
  await inDatabase(context, () =>
    sequelize.transaction(async (transaction) => {
      if (!(await finishClaim(sequelize, claim, transaction))) return;
      await watermarks.update({ state: problem ? 'refused' : 'ready', problem }, { where: { id: watermarkId }, transaction });
      await notifyTopic(sequelize, 'watermarks', transaction);
    }),
  );
}

const PROGRAM = fileURLToPath(new URL('./mark-check.js', import.meta.url));

/** Not in this program: a logo that nobody has looked at may take any time and memory. */
const refusal = (row: WatermarkRow): Promise<Problem | null> => markProblem(PROGRAM, drawableMark(row));
