import { FIELDS, fieldAt } from './descriptors';
import { type FieldPath, valueAt } from './field-paths';
import type { Preset } from './schema';

/** A field in which two presets differ, in the words of its descriptor. */
export interface FieldChange {
  path: FieldPath;
  label: string;
  from: string;
  to: string;
}

const PATHS = Object.keys(FIELDS) as FieldPath[];
/** Groups that may be null as a whole, and hold fields of their own. */
const isGroup = (path: FieldPath): boolean => PATHS.some((other) => other.startsWith(`${path}.`));

/**
 * What has changed from one preset to another, field by field, in the order in which a preset is read.
 * @example changesBetween(before, after) // [{ path: 'file.quality', label: 'Quality', from: '80', to: '85' }]
 */
export function changesBetween(before: Preset, after: Preset): FieldChange[] {
  return PATHS.flatMap((path) => {
    const [from, to] = [valueAt(before, path), valueAt(after, path)];
    if (JSON.stringify(from) === JSON.stringify(to)) return [];
    const { label, editor, suggestions, says } = fieldAt(path)!;
    // In its sentence the name of a metadata group says nothing of its value; its two values have words of their own.
    const word = (value: unknown) => (editor === 'flip' && suggestions.find((one) => one.value === value)?.label) || says(value);
    // Both there: its fields tell what has changed. One of them gone: the group tells it, and its fields have nothing to say.
    if (isGroup(path) && from !== null && to !== null) return [];
    if (from === undefined || to === undefined) return [];
    return [{ path, label, from: word(from), to: word(to) }];
  });
}
