import {
  fieldAt,
  type FieldPath,
  type OfferedFileType,
  type Preset,
  rulesAt,
  type StoredWatermark,
  type Suggestion,
  type Typed,
} from '@rundle/core';

/** How a value of a preset is edited where it stands in its sentence. */
export type Editor = { label: string; help: string } & (
  | { kind: 'number'; min: number; max: number; step: number; unit: string; scale: number }
  | { kind: 'choice'; options: readonly Suggestion<unknown>[] }
  /** The usual values, and any other that can be typed. */
  | { kind: 'typed'; options: readonly Suggestion<unknown>[]; typed: Typed<unknown> }
  | { kind: 'text' }
  /** Several words, with commas between them. */
  | { kind: 'words' }
  | { kind: 'flip'; values: readonly unknown[] }
  | { kind: 'name-parts' }
);

/** What differs from server to server. */
export interface Offered {
  /** The studio's; those that have been checked can be chosen. Null: not known yet. */
  watermarks: readonly StoredWatermark[] | null;
  /** Types that cannot be written are not offered. */
  fileTypes: readonly OfferedFileType[];
}

/** Until the server has told. */
export const NOTHING_YET: Offered = { watermarks: null, fileTypes: [] };

/**
 * The editor of a field, as the field describes itself.
 * @param here what there is to choose from on this server
 */
export function editorOf(path: FieldPath, here: Offered = NOTHING_YET): Editor {
  const { label, help, editor, suggestions, typed, unit, scale, step } = fieldAt(path)!;
  switch (editor) {
    case 'number': {
      const { min, max } = rulesAt(path);
      // Arrow keys count in steps from the least value (HTML, 4.10.5.3.8): from 0.01 they would make 2048 into 2048.01.
      const least = Math.ceil(Number(((min * scale) / step).toFixed(6))) * step;
      return { label, help, kind: editor, min: least, max: max * scale, step, unit, scale };
    }
    case 'choice':
      return { label, help, kind: editor, options: path === 'file.type' ? suggestions.filter(isWritable(here)) : suggestions };
    case 'typed':
      return { label, help, kind: editor, options: suggestions, typed: typed! };
    case 'flip':
      return { label, help, kind: editor, values: suggestions.map(({ value }) => value) };
    case 'watermark':
      return { label, help, kind: 'choice', options: watermarkOptions(path, here.watermarks) };
    default:
      return { label, help, kind: editor };
  }
}

const isWritable =
  ({ fileTypes }: Offered) =>
  ({ value }: Suggestion<unknown>): boolean =>
    fileTypes.find(({ type }) => type === value)?.ready ?? true;

function watermarkOptions(path: FieldPath, watermarks: readonly StoredWatermark[] | null): Suggestion<unknown>[] {
  const ready = watermarks?.filter(({ state }) => state === 'ready') ?? [];
  const none = { value: null, label: watermarks && !ready.length ? 'No watermark (make one under Watermarks)' : 'No watermark' };
  return [none, ...ready.map(({ id, title }) => ({ value: path === 'mark' ? { ...NEW_MARK, watermark: id } : id, label: title }))];
}

/** A new mark stands where most put it: small, at the bottom right. */
const NEW_MARK: Omit<NonNullable<Preset['mark']>, 'watermark'> = { place: 'bottom-right', margin: 0.03, size: 0.18, opacity: 0.6 };
