import { type Filter, ALL_PICTURES, isOpen, type Master, passes, type SetChange, type SetDetail, type SetEvent } from '@rundle/core';
import { createActionGroup, createFeature, createReducer, createSelector, emptyProps, on, props } from '@ngrx/store';
import { type Edit, edited, inOrder, inverse } from './edits';

/** How a click on a picture changes the selection. */
export type Click = 'only' | 'toggle' | 'range';

export const setActions = createActionGroup({
  source: 'Set',
  events: {
    'Page opened': props<{ setId: string }>(),
    'Page left': emptyProps(),
    Loaded: props<{ set: SetDetail }>(),
    'Masters loaded': props<{ setId: string; masters: Master[]; from: number; total: number }>(),
    'Not loaded': props<{ sentence: string }>(),
    'Event came': props<{ event: SetEvent }>(),
    'Changed by hand': props<{ setId: string; change: SetChange }>(),
    'Picture clicked': props<{ masterId: string; click: Click }>(),
    'Selection made': props<{ masterIds: string[] }>(),
    Edited: props<{ edit: Edit }>(),
    'Undo pressed': emptyProps(),
    'Redo pressed': emptyProps(),
    'Edit saved': emptyProps(),
    'Edit refused': emptyProps(),
  },
});

interface State {
  setId: string | null;
  set: SetDetail | null;
  /** In the order of the set. */
  masters: Master[];
  /** How many there are; more than are here while they are being loaded. Null: not known yet. */
  total: number | null;
  sentence: string | null;
  selected: string[];
  /** The picture that keys act from, and where a range begins. */
  cursor: string | null;
  undo: Edit[];
  redo: Edit[];
  /** Done here, oldest first, and not kept by the server yet, also of sets whose page has been left. */
  pendingEdits: PendingEdit[];
}

/** An edit on its way to the server; what that tells of the set meanwhile may be from before it. */
interface PendingEdit {
  setId: string;
  edit: Edit;
}

const initial: State = {
  setId: null,
  set: null,
  masters: [],
  total: null,
  sentence: null,
  selected: [],
  cursor: null,
  undo: [],
  redo: [],
  pendingEdits: [],
};

/** Edits that can be taken back. */
const MOST_UNDO = 200;

export const setFeature = createFeature({
  name: 'set',
  reducer: createReducer(
    initial,
    on(setActions.pageOpened, (state, { setId }): State =>
      state.setId === setId ? state : { ...initial, setId, pendingEdits: state.pendingEdits },
    ),
    on(setActions.loaded, (state, { set }): State => (state.setId === set.id ? { ...state, set, sentence: null } : state)),
    on(setActions.mastersLoaded, (state, { setId, masters, from, total }): State => {
      if (state.setId !== setId) return state;
      // The first part replaces what an earlier connection knew.
      const known = from === 0 ? [] : state.masters;
      const merged = withPendingEdits(withMasters({ ...state, masters: known }, masters)).masters;
      const ids = new Set(merged.map(({ id }) => id));
      const all = merged.length >= total;
      return { ...state, masters: merged, total, selected: all ? state.selected.filter((id) => ids.has(id)) : state.selected };
    }),
    on(setActions.notLoaded, (state, { sentence }): State => ({ ...state, sentence })),
    on(setActions.changedByHand, (state, { change }): State => (state.set ? { ...state, set: { ...state.set, ...named(change) } } : state)),
    on(setActions.eventCame, (state, { event }): State => {
      switch (event.type) {
        case 'masters':
          return withPendingEdits(withMasters(state, inTheirPlaces(state, event.masters)));
        case 'masters-removed':
          return withPendingEdits(withoutMasters(state, new Set(event.masterIds)));
        case 'order':
          return withPendingEdits({ ...state, masters: inOrder(state.masters, event.masterIds) });
        case 'set':
          return state.setId === event.set.id ? { ...state, set: event.set } : state;
        default:
          return state;
      }
    }),
    on(setActions.pictureClicked, (state, { masterId, click }): State => {
      if (click === 'range') return { ...state, selected: rangeTo(state, masterId) };
      const selected = click === 'toggle' ? toggled(state.selected, masterId) : [masterId];
      return { ...state, selected, cursor: masterId };
    }),
    on(setActions.selectionMade, (state, { masterIds }): State => ({ ...state, selected: masterIds })),
    on(setActions.edited, (state, { edit }): State => ({
      ...done(state, edit),
      undo: [...state.undo, edit].slice(-MOST_UNDO),
      redo: [],
    })),
    on(setActions.undoPressed, (state): State => {
      const edit = state.undo.at(-1);
      return edit ? { ...done(state, inverse(edit)), undo: state.undo.slice(0, -1), redo: [...state.redo, edit] } : state;
    }),
    on(setActions.redoPressed, (state): State => {
      const edit = state.redo.at(-1);
      return edit ? { ...done(state, edit), redo: state.redo.slice(0, -1), undo: [...state.undo, edit] } : state;
    }),
    on(setActions.editSaved, (state): State => ({ ...state, pendingEdits: state.pendingEdits.slice(1) })),
    on(setActions.editRefused, (state): State => {
      const [refused, ...pendingEdits] = state.pendingEdits;
      if (refused?.setId !== state.setId) return { ...state, pendingEdits };
      return withPendingEdits({ ...applied(state, inverse(refused.edit)), undo: [], redo: [], pendingEdits });
    }),
  ),
  extraSelectors: ({ selectSet, selectMasters, selectSelected, selectPendingEdits }) => {
    const selectFilter = createSelector(selectSet, (set): Filter => set?.filter ?? ALL_PICTURES);
    const selectChosen = createSelector(selectMasters, selectSelected, (masters, selected) => {
      const ids = new Set(selected);
      return masters.filter(({ id }) => ids.has(id));
    });
    return {
      selectFilter,
      /** What the filter lets through, in the order of the set. */
      selectShown: createSelector(selectMasters, selectFilter, (masters, filter) =>
        isOpen(filter) ? masters : masters.filter((master) => passes(filter, master)),
      ),
      selectChosen,
      /** What is to be kept next. */
      selectNextPendingEdit: createSelector(selectPendingEdits, ([first]) => first ?? null),
      selectArriving: createSelector(selectMasters, (masters) => masters.some(({ state }) => state === 'arriving')),
      selectBytes: createSelector(selectMasters, weightOf),
      selectChosenBytes: createSelector(selectChosen, weightOf),
      /** All tags of the set, most used first. */
      selectTags: createSelector(selectMasters, (masters) => {
        const uses = new Map<string, number>();
        for (const tag of masters.flatMap(({ tags }) => tags)) uses.set(tag, (uses.get(tag) ?? 0) + 1);
        return [...uses].sort((a, b) => b[1] - a[1]).map(([tag]) => tag);
      }),
    };
  },
});

function weightOf(masters: readonly Master[]): number {
  return masters.reduce((sum, { bytes }) => sum + bytes, 0);
}

/** Without fields that are not named. */
const named = (change: SetChange): Partial<SetDetail> =>
  Object.fromEntries(Object.entries(change).filter(([, value]) => value !== undefined));

function applied(state: State, edit: Edit): State {
  const masters = edited(state.masters, edit);
  const ids = edit.kind === 'removal' ? new Set(masters.map(({ id }) => id)) : null;
  return { ...state, masters, selected: ids ? state.selected.filter((id) => ids.has(id)) : state.selected };
}

function done(state: State, edit: Edit): State {
  return state.setId ? { ...applied(state, edit), pendingEdits: [...state.pendingEdits, { setId: state.setId, edit }] } : state;
}

/** With what was done here on top of what the server tells. */
function withPendingEdits(state: State): State {
  const edits = state.pendingEdits.filter(({ setId }) => setId === state.setId);
  return edits.length ? { ...state, masters: edits.reduce((masters, { edit }) => edited(masters, edit), state.masters) } : state;
}

/** Masters that are new or have changed, in the order of the set. */
function withMasters(state: State, changed: readonly Master[]): State {
  if (changed.length === 0) return state;
  const byId = new Map(state.masters.map((master) => [master.id, master]));
  // A part of the list may come later than the event that says the picture has been read.
  for (const master of changed) if (master.state !== 'arriving' || !byId.has(master.id)) byId.set(master.id, master);
  const masters = [...byId.values()].sort((a, b) => a.position - b.position);
  return { ...state, masters, total: state.total === null ? null : Math.max(state.total, masters.length) };
}

/**
 * An event about marks may have been looked up before an order that has been made here since: places come by events about the
 * order only, but for pictures that are new.
 */
function inTheirPlaces(state: State, changed: readonly Master[]): Master[] {
  const places = new Map(state.masters.map(({ id, position }) => [id, position]));
  return changed.map((master) => ({ ...master, position: places.get(master.id) ?? master.position }));
}

function withoutMasters(state: State, gone: ReadonlySet<string>): State {
  const masters = state.masters.filter(({ id }) => !gone.has(id));
  return { ...state, masters, total: masters.length, selected: state.selected.filter((id) => !gone.has(id)) };
}

const toggled = (ids: readonly string[], id: string): string[] => (ids.includes(id) ? ids.filter((other) => other !== id) : [...ids, id]);

/** From the cursor to a picture, among those that are shown. */
function rangeTo({ set, masters, cursor, selected }: State, id: string): string[] {
  const filter = set?.filter ?? ALL_PICTURES;
  const order = masters.filter((master) => passes(filter, master)).map((master) => master.id);
  const from = cursor ? order.indexOf(cursor) : -1;
  const to = order.indexOf(id);
  if (from < 0 || to < 0) return toggled(selected, id);
  return order.slice(Math.min(from, to), Math.max(from, to) + 1);
}
