import { problemOf, type Watermark } from '@rundle/core';
import type { RenderPool } from '@rundle/render';
import type { Database, JobOf, WatermarkRow } from '@rundle/store';

/** Draws a new watermark once; what is wrong with it is written down beside it. */
export async function checkWatermark({ watermarkId }: JobOf<'check-watermark'>, { watermarks }: Database, pool: RenderPool): Promise<void> {
  const row = await watermarks.findByPk(watermarkId);
  if (!row) return;
  try {
    await pool.checkWatermark(drawable(row));
    await row.update({ state: 'ready', problem: null });
  } catch (error) {
    await row.update({ state: 'refused', problem: problemOf(error, 'watermark-unreadable') });
  }
}

/** A stored watermark as the engine takes it. */
export function drawable({ kind, text, colour, data }: WatermarkRow): Watermark {
  return kind === 'text' ? { kind, text: text ?? '', colour: colour ?? '#ffffff' } : { kind, data: new Uint8Array(data ?? []) };
}
