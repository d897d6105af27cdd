import { NO_DECISIONS } from '@rundle/core';
import { describe, expect, it } from 'vitest';
import { edited, inverse } from '../set/edits';
import { master } from '../set/sample-master';
import { type Decision, remedyEdit, remedyLabel } from './remedies';

const masters = [master(1, { overrides: { ...NO_DECISIONS, without: ['small'] } }), master(2, { choice: 'pick' }), master(3)];

/** The masters after a remedy for the first two. */
const mended = (remedy: Decision) => edited(masters, remedyEdit(remedy, masters, new Set(['m1', 'm2'])));

describe('a remedy', () => {
  it('settles just the pictures that it is for, beside what was decided about them before', () => {
    expect(mended({ kind: 'leave-out' }).map(({ choice }) => choice)).toEqual(['out', 'out', null]);
    expect(mended({ kind: 'assume-srgb' }).map(({ overrides }) => overrides.assumeSrgb)).toEqual([true, true, false]);
    expect(mended({ kind: 'fill-rights' }).map(({ overrides }) => overrides.fillRights)).toEqual([true, true, false]);
    expect(mended({ kind: 'drop-place' }).map(({ overrides }) => overrides.dropPlace)).toEqual([true, true, false]);
    const without = (presetId: string) => mended({ kind: 'without', presetId, title: 'Large' }).map(({ overrides }) => overrides.without);
    expect(without('large')).toEqual([['small', 'large'], ['large'], []]);
    expect(without('small')).toEqual([['small'], ['small'], []]);
  });

  it('is taken back to what was there, picture by picture', () => {
    for (const remedy of [{ kind: 'leave-out' }, { kind: 'assume-srgb' }, { kind: 'without', presetId: 'x', title: '' }] as Decision[]) {
      const edit = remedyEdit(remedy, masters, new Set(['m1', 'm2']));
      expect(edited(edited(masters, edit), inverse(edit))).toEqual(masters);
    }
  });

  it('says on its button what it does, for one and for many', () => {
    expect([remedyLabel({ kind: 'leave-out' }, 1), remedyLabel({ kind: 'leave-out' }, 2)]).toEqual([
      'Leave this one out',
      'Leave these out',
    ]);
  });
});
