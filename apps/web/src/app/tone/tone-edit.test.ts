import { type Master, NO_DECISIONS, PictureTone, stepTone } from '@rundle/core';
import { describe, expect, it } from 'vitest';
import { decidedAfter } from '@rundle/core';
import { toneEdit } from './tone-edit';

const brighter = PictureTone.parse({ exposure: 0.5 });
const master = (id: string, tone: PictureTone | null = null) => ({ id, overrides: { ...NO_DECISIONS, tone } }) as Master;

describe('a tone that is decided', () => {
  it('changes only pictures that had another, and is taken back by what was before', () => {
    const masters = [master('a'), master('b', brighter), master('c', PictureTone.parse({ warmth: 10 }))];
    const edit = toneEdit(masters, 'tone', () => brighter)!;
    expect(edit.after.map(({ masterId }) => masterId)).toEqual(['a', 'c']);
    expect(edit.before.map(({ overrides }) => overrides?.tone)).toEqual([null, PictureTone.parse({ warmth: 10 })]);
    expect(decidedAfter(masters[0]!.overrides, edit.after[0]!.overrides!).tone).toEqual(brighter);
  });

  it('is none where it changes nothing', () => {
    expect(toneEdit([master('a')], 'tone', () => PictureTone.parse({}))).toBeNull();
    const darkerAgain = toneEdit([master('a', stepTone(null, 1))], 'darker', (before) => stepTone(before, -1))!;
    expect(darkerAgain.after[0]?.overrides).toEqual({ tone: null });
  });
});
