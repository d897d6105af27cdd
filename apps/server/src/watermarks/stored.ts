import type { NewWatermark } from '@rundle/core';
import type { Database, WatermarkRow } from '@rundle/store';
import type { CreationAttributes, Transaction } from 'sequelize';

/** A watermark as a row of the table has it; it still has to be checked. */
export function contentOf(mark: NewWatermark): CreationAttributes<WatermarkRow> {
  const { title, kind } = mark;
  const bytes = (base64: string | null) => (base64 === null ? null : Buffer.from(base64, 'base64'));
  const content =
    mark.kind === 'text'
      ? { text: mark.text, colour: mark.colour, typeface: mark.typeface, edge: mark.edge, adapt: mark.adapt, data: null, dark: null }
      : { text: null, colour: null, data: bytes(mark.data), dark: bytes(mark.dark) };
  return { title, kind, ...content, state: 'checking', problem: null, deletedAt: null };
}

/** Writes a new watermark down. */
export const storeWatermark = ({ watermarks }: Database, mark: NewWatermark, transaction: Transaction): Promise<WatermarkRow> =>
  watermarks.create(contentOf(mark), { transaction });
