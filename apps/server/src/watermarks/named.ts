import { Id, type Problem } from '@rundle/core';
import type { Database, WatermarkRow } from '@rundle/store';
import type { Transaction } from 'sequelize';

/** The watermark that a preset names, or why it cannot be used. */
export async function watermarkOf({ watermarks }: Database, id: string, transaction?: Transaction): Promise<WatermarkRow | Problem> {
  const where = { id, deletedAt: null };
  const row = Id.safeParse(id).success ? await watermarks.findOne({ where, ...(transaction ? { transaction } : {}) }) : null;
  if (row?.state === 'ready') return row;
  const field = 'mark.watermark';
  if (!row)
    return { code: 'watermark-missing', field, message: 'The preset’s watermark is not there (any more). Choose another in the preset.' };
  if (row.state === 'checking')
    return { code: 'watermark-checking', field, message: 'The preset’s watermark is still being checked. Try again in a moment.' };
  return { ...(row.problem ?? { code: 'watermark-unreadable', message: 'The watermark cannot be used.' }), field };
}
