import '@angular/compiler';
import { ALL_PICTURES } from '@rundle/core';
import type { Action } from '@ngrx/store';
import { describe, expect, it } from 'vitest';
import { type Edit, markEdit } from './edits';
import { arrivingMaster, master, sampleSet } from './sample-master';
import { type Click, setActions, setFeature } from './set.store';

const set = sampleSet({ id: 'set', title: 'Evening' });
const loaded = (numbers: number[], from = 0, total = numbers.length) =>
  setActions.mastersLoaded({ setId: 'set', masters: numbers.map((n) => master(n)), from, total });
type State = ReturnType<typeof setFeature.reducer>;
const after = (...actions: Action[]): State =>
  [setActions.pageOpened({ setId: 'set' }), setActions.loaded({ set }), loaded([1, 2, 3, 4]), ...actions].reduce<State | undefined>(
    (state, action) => setFeature.reducer(state, action),
    undefined,
  )!;
const click = (masterId: string, how: Click = 'toggle') => setActions.pictureClicked({ masterId, click: how });
const ids = (state: State) => state.masters.map(({ id }) => id);

describe('the set', () => {
  it('is selected by click, by range in both directions, and cleared', () => {
    expect(after(click('m2'), click('m3'), click('m2')).selected).toEqual(['m3']);
    expect(after(click('m2'), click('m3', 'only')).selected).toEqual(['m3']);
    expect(after(click('m2'), click('m4', 'range')).selected).toEqual(['m2', 'm3', 'm4']);
    expect(after(click('m4'), click('m2', 'range')).selected).toEqual(['m2', 'm3', 'm4']);
    expect(after(click('m1'), setActions.selectionMade({ masterIds: [] })).selected).toEqual([]);
    expect(setFeature.selectSelectedBytes({ set: after(click('m2'), click('m4', 'range')) })).toBe(900);
  });

  it('comes in parts, and a new connection forgets what is gone', () => {
    const state = after(loaded([1, 2], 0, 5), loaded([3, 4, 5], 2, 5));
    expect([ids(state), state.total]).toEqual([['m1', 'm2', 'm3', 'm4', 'm5'], 5]);
    expect(ids(setFeature.reducer(state, loaded([2, 3])))).toEqual(['m2', 'm3']);
  });

  it('undoes and redoes marks, order and removals, each to what was before', () => {
    const start = after(click('m1'), click('m3'));
    const stars = markEdit(start.masters, new Set(start.selected), { kind: 'stars', stars: 4 })!;
    const order: Edit = { kind: 'order', label: 'moved', before: ids(start), after: ['m3', 'm1', 'm2', 'm4'] };
    const removal: Edit = { kind: 'removal', label: 'out', gone: [start.masters[1]!], back: false };
    const done = [stars, order, removal].map((edit) => setActions.edited({ edit })).reduce(setFeature.reducer, start);
    expect([ids(done), done.masters.map((m) => m.stars)]).toEqual([
      ['m3', 'm1', 'm4'],
      [4, 4, 0],
    ]);
    const undone = [1, 2, 3].reduce((state) => setFeature.reducer(state, setActions.undoPressed()), done);
    expect([ids(undone), undone.masters.map((m) => m.stars)]).toEqual([
      ['m1', 'm2', 'm3', 'm4'],
      [0, 0, 0, 0],
    ]);
    const again = [1, 2, 3].reduce((state) => setFeature.reducer(state, setActions.redoPressed()), undone);
    expect(ids(again)).toEqual(['m3', 'm1', 'm4']);
    expect(markEdit(start.masters, new Set(['m1']), { kind: 'stars', stars: 0 })).toBeNull();
  });

  it('shows what passes the filter, and selects ranges among that', () => {
    const masters = [1, 2, 3, 4].map((n) => master(n, { stars: n }));
    const starred = after(setActions.eventCame({ event: { type: 'masters', masters } }));
    const change = { filter: { ...ALL_PICTURES, stars: '2' as const, text: '.jpg' } };
    const narrowed = setFeature.reducer(starred, setActions.changedByHand({ setId: 'set', change }));
    expect(setFeature.selectShown({ set: narrowed }).map(({ id }) => id)).toEqual(['m2', 'm3', 'm4']);
    const ranged = [click('m1', 'only'), click('m2', 'only'), click('m4', 'range')].reduce<State>(setFeature.reducer, narrowed);
    expect(ranged.selected).toEqual(['m2', 'm3', 'm4']);
  });

  it('takes pictures in by their position, and never goes back from read to arriving', () => {
    const events = [
      setActions.eventCame({ event: { type: 'masters', masters: [master(6), master(5, { fileName: 'new.jpg', revision: 1 })] } }),
      setActions.eventCame({ event: { type: 'masters', masters: [arrivingMaster(5)] } }),
    ];
    const { masters } = after(...events);
    expect(masters.map(({ id }) => id)).toEqual(['m1', 'm2', 'm3', 'm4', 'm5', 'm6']);
    expect(masters[4]).toMatchObject({ fileName: 'new.jpg', state: 'ready' });
  });

  it('keeps the order that was made here when an event tells of marks as they were before it', () => {
    const start = after();
    const before = start.masters.map(({ id }) => id);
    const order = ['m3', 'm1', 'm2', 'm4'];
    const moved = setActions.edited({ edit: { kind: 'order', label: 'moved', before, after: order } });
    const late = setActions.eventCame({ event: { type: 'masters', masters: [{ ...start.masters[2]!, stars: 5 }] } });
    const { masters } = [moved, late].reduce(setFeature.reducer, start);
    expect(masters.map(({ id, stars }) => [id, stars])).toEqual(order.map((id) => [id, id === 'm3' ? 5 : 0]));
  });

  it('shows what was done here until the server has kept it, whatever it tells of before', () => {
    const start = after();
    const rated = markEdit(start.masters, new Set(['m1']), { kind: 'stars', stars: 5 })!;
    const gone: Edit = { kind: 'removal', label: 'out', gone: [start.masters[3]!], back: false };
    const before = setActions.eventCame({ event: { type: 'masters', masters: [start.masters[0]!, start.masters[3]!] } });
    const shown = ({ masters }: State) => masters.map(({ id, stars }) => `${id} ${stars}`);
    const waiting = [setActions.edited({ edit: rated }), setActions.edited({ edit: gone }), before].reduce(setFeature.reducer, start);
    expect(shown(waiting)).toEqual(['m1 5', 'm2 0', 'm3 0']);
    const saved = setActions.editSaved({ revisions: {} });
    // Once it is kept, another page may change it again.
    expect(shown([saved, saved, before].reduce(setFeature.reducer, waiting))[0]).toBe('m1 0');
  });

  it('forgets pictures that were taken out, also in the selection', () => {
    const state = after(click('m1'), click('m2'), setActions.eventCame({ event: { type: 'masters-removed', masterIds: ['m2'] } }));
    expect(state.selected).toEqual(['m1']);
    expect(state.masters).toHaveLength(3);
  });

  it('starts afresh for another set, and stays for the same', () => {
    const state = after(click('m1'));
    expect(setFeature.reducer(state, setActions.pageOpened({ setId: 'set' }))).toBe(state);
    expect(setFeature.reducer(state, setActions.pageOpened({ setId: 'other' }))).toMatchObject({ set: null, selected: [] });
    expect(setFeature.reducer(state, setActions.loaded({ set: { ...set, id: 'late' } }))).toBe(state);
  });
});
