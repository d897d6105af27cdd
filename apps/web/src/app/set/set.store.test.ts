import '@angular/compiler';
import type { Master, SetDetail } from '@rundle/core';
import type { Action } from '@ngrx/store';
import { describe, expect, it } from 'vitest';
import { setActions, setFeature } from './set.store';

const master = (n: number, more: Partial<Master> = {}): Master => ({
  ...{ id: `m${n}`, fileName: `${n}.jpg`, position: n, bytes: 100 * n, state: 'ready', facts: null, findings: [], problem: null },
  ...more,
});
const set: SetDetail = {
  ...{ id: 'set', title: 'Evening', createdAt: '2026-06-20T21:40:00Z', pictures: 4, bytes: 1000, outputs: 0, running: false, covers: [] },
  masters: [1, 2, 3, 4].map((n) => master(n)),
};
type State = ReturnType<typeof setFeature.reducer>;
const after = (...actions: Action[]): State =>
  [setActions.pageOpened({ setId: 'set' }), setActions.loaded({ set }), ...actions].reduce<State | undefined>(
    (state, action) => setFeature.reducer(state, action),
    undefined,
  )!;
const click = (masterId: string, range = false) => setActions.pictureClicked({ masterId, range });

describe('the set', () => {
  it('is selected by click, by range in both directions, and cleared', () => {
    expect(after(click('m2'), click('m3'), click('m2')).selected).toEqual(['m3']);
    expect(after(click('m2'), click('m4', true)).selected).toEqual(['m2', 'm3', 'm4']);
    expect(after(click('m4'), click('m2', true)).selected).toEqual(['m4', 'm2', 'm3']);
    expect(after(click('m1'), setActions.selectionMade({ masterIds: [] })).selected).toEqual([]);
    const state = after(click('m2'), click('m4', true));
    expect(setFeature.selectSelectedBytes({ set: state })).toBe(900);
  });

  it('takes pictures in by their position, and never goes back from read to arriving', () => {
    const events = [
      setActions.eventCame({ event: { type: 'masters', masters: [master(6), master(5, { fileName: 'new.jpg' })] } }),
      setActions.uploadEnded({ id: 'u', masters: [master(5, { state: 'arriving' })], refused: [] }),
    ];
    const masters = after(...events).set!.masters;
    expect(masters.map(({ id }) => id)).toEqual(['m1', 'm2', 'm3', 'm4', 'm5', 'm6']);
    expect(masters[4]).toMatchObject({ fileName: 'new.jpg', state: 'ready' });
  });

  it('forgets pictures that were taken out, also in the selection', () => {
    const state = after(click('m1'), click('m2'), setActions.eventCame({ event: { type: 'masters-removed', masterIds: ['m2'] } }));
    expect(state.selected).toEqual(['m1']);
    expect(state.set!.masters).toHaveLength(3);
  });

  it('keeps refused files in sight until they are put away', () => {
    const refused = [{ code: 'empty', file: 'a.jpg', message: 'The file is empty.' }];
    const upload = { id: 'u', fileName: 'a.jpg', bytes: 10, sent: 0 };
    const going = after(setActions.uploadBegun({ upload }), setActions.uploadWentOn({ id: 'u', sent: 7 }));
    expect(going.uploads).toMatchObject([{ sent: 7 }]);
    const ended = setFeature.reducer(going, setActions.uploadEnded({ id: 'u', masters: [], refused }));
    expect(ended).toMatchObject({ uploads: [], refused });
    expect(setFeature.reducer(ended, setActions.refusalsPutAway()).refused).toEqual([]);
  });

  it('starts afresh for another set, and stays for the same', () => {
    const state = after(click('m1'));
    expect(setFeature.reducer(state, setActions.pageOpened({ setId: 'set' }))).toBe(state);
    expect(setFeature.reducer(state, setActions.pageOpened({ setId: 'other' }))).toMatchObject({ set: null, selected: [] });
    expect(setFeature.reducer(state, setActions.loaded({ set: { ...set, id: 'late' } }))).toBe(state);
  });
});
