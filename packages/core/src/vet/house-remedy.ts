import type { FindingCode } from '../codes/finding-codes';
import type { Once } from '../plan/once';
import type { Preset } from '../preset/schema';
import { type AnyTypeName, FILE_TYPES, LOSSY_TYPE_NAMES } from '../types/table';
import type { HouseRules } from './house-rules';

/**
 * The values by which a preset keeps a receiver's rule that its outputs break, as they are varied for a set.
 * @param code of the finding, see {@link houseFindings}
 * @param preset as it is carried out in the set
 * @returns null: no single value does, or the preset keeps the rule by itself
 */
export function houseRemedy(code: FindingCode, rules: HouseRules, preset: Preset): Once | null {
  const { size, file, colour } = preset;
  if (file.type === 'original') return null;
  const isLossy = FILE_TYPES[file.type].lossy;
  const types: readonly AnyTypeName[] = rules.types;
  // The lengths of several sizes are changed in the preset.
  const isFamily = size.sizes.length > 0;
  switch (code) {
    case 'house-long':
      return !isFamily && size.fit === 'long-edge' && rules.mostPixels !== null && longerThan(preset, rules.mostPixels)
        ? { px: rules.mostPixels }
        : null;
    case 'house-short':
      return !isFamily && size.fit === 'short-edge' && rules.leastShortSide !== null && (size.px ?? 0) < rules.leastShortSide
        ? { px: rules.leastShortSide }
        : null;
    case 'house-heavy':
      return isLossy && rules.mostBytes !== null && (file.ceiling?.bytes ?? Infinity) > rules.mostBytes
        ? { ceiling: rules.mostBytes }
        : null;
    case 'house-type': {
      const type = LOSSY_TYPE_NAMES.find((name) => types.includes(name));
      return isLossy && type && !types.includes(file.type) ? { type } : null;
    }
    case 'house-space': {
      const [space] = rules.spaces;
      return space && (colour.space === 'keep' || !rules.spaces.includes(colour.space)) ? { space } : null;
    }
    default:
      return null;
  }
}

/** A length in cm or inches becomes one in pixels where it is varied, so that it is only held against the rule in pixels. */
const longerThan = ({ size }: Preset, px: number): boolean => size.unit !== 'px' || (size.px ?? 0) > px;
