import { isNeutralForPicture, type Master, type PictureTone } from '@rundle/core';
import type { Edit } from '../set/edits';

/**
 * Decides the tone of some pictures, as an edit that can be undone; null when it changes none of them.
 * @param toneOf what each of them gets; null: as the presets say
 */
export function toneEdit(
  masters: readonly Master[],
  label: string,
  toneOf: (before: PictureTone | null) => PictureTone | null,
): Extract<Edit, { kind: 'marks' }> | null {
  const changed = masters
    .map((master) => ({ master, after: saidTone(toneOf(master.overrides.tone)) }))
    .filter(({ master, after }) => JSON.stringify(after) !== JSON.stringify(master.overrides.tone));
  if (changed.length === 0) return null;
  return {
    kind: 'marks',
    label,
    before: changed.map(({ master }) => ({ masterId: master.id, overrides: { tone: master.overrides.tone } })),
    after: changed.map(({ master, after }) => ({ masterId: master.id, overrides: { tone: after } })),
  };
}

/** A tone that changes nothing is none. */
const saidTone = (tone: PictureTone | null): PictureTone | null => (tone && !isNeutralForPicture(tone) ? tone : null);
