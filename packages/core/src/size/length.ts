import type { LengthUnit } from '../parts/schema';

const CM_PER_INCH = 2.54;

/**
 * A length in px, at least 1.
 * @param ppi pixels per inch; not asked for where the unit is px
 * @example lengthInPixels(6, 'in', 300) // 1800
 */
export const lengthInPixels = (length: number, unit: LengthUnit, ppi: number | null): number =>
  unit === 'px' ? length : Math.max(1, Math.floor((unit === 'cm' ? length / CM_PER_INCH : length) * (ppi ?? 0) + 0.5));

/** The same the other way round, to a tenth; whole px. */
export const lengthFromPixels = (px: number, unit: LengthUnit, ppi: number | null): number => {
  if (unit === 'px') return Math.round(px);
  const inches = px / (ppi ?? 1);
  return Math.round((unit === 'cm' ? inches * CM_PER_INCH : inches) * 10) / 10;
};
