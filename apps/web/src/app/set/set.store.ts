import { type Filter, ALL_PICTURES, isOpen, type Master, passes, type SetChange, type SetDetail, type SetEvent } from '@rundle/core';
import { createActionGroup, createFeature, createReducer, createSelector, emptyProps, on, props } from '@ngrx/store';
import { type Edit, edited, inOrder, inverse, type SetEdit } from './edits';

/** How a click on a picture changes the selection. */
export type Click = 'only' | 'toggle' | 'range';

/** How often what an edit has changed has been changed by now, as far as its answer says. */
export interface Revisions {
  set?: number;
  masters?: Record<string, number>;
}

export const setActions = createActionGroup({
  source: 'Set',
  events: {
    'Page opened': props<{ setId: string }>(),
    'Page left': emptyProps(),
    Loaded: props<{ set: SetDetail }>(),
    'Masters loaded': props<{ setId: string; masters: Master[]; from: number; total: number }>(),
    /** The server does not answer, or not as it should: it is tried again. */
    'Load failed': props<{ setId: string; sentence: string }>(),
    /** There is no use in trying again. */
    'Not there': props<{ setId: string; sentence: string }>(),
    'Event came': props<{ event: SetEvent }>(),
    'Changed by hand': props<{ setId: string; change: SetChange }>(),
    'Picture clicked': props<{ masterId: string; click: Click }>(),
    'Selection made': props<{ masterIds: string[] }>(),
    Edited: props<{ edit: Edit }>(),
    'Undo pressed': emptyProps(),
    'Redo pressed': emptyProps(),
    'Edit sent': emptyProps(),
    'Edit saved': props<{ revisions: Revisions }>(),
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
  /** While the list is being loaded, again or for the first time: the pictures that have come with it. Events wait for its end. */
  found: ReadonlySet<string> | null;
  /** Why there is nothing to show. */
  sentence: string | null;
  /** Why the last load failed, while it is tried again. */
  trouble: string | null;
  selected: string[];
  /** The picture that keys act from, and where a range begins. */
  cursor: string | null;
  undo: Edit[];
  redo: Edit[];
  /** Done here, oldest first, and not kept by the server yet, also of sets whose page has been left. */
  pendingEdits: PendingEdit[];
  /** Whether the first of them has been sent. */
  sending: boolean;
}

/** An edit on its way to the server; what that tells of the set meanwhile may be from before it. */
interface PendingEdit {
  setId: string;
  edit: Edit | SetEdit;
}

const initial: State = {
  setId: null,
  set: null,
  masters: [],
  total: null,
  found: null,
  sentence: null,
  trouble: null,
  selected: [],
  cursor: null,
  undo: [],
  redo: [],
  pendingEdits: [],
  sending: false,
};

const NO_PRESETS: readonly string[] = [];

/** Edits that can be taken back. */
const MOST_UNDO = 200;

export const setFeature = createFeature({
  name: 'set',
  reducer: createReducer(
    initial,
    on(setActions.pageOpened, (state, { setId }): State =>
      state.setId === setId ? state : { ...initial, setId, pendingEdits: state.pendingEdits, sending: state.sending },
    ),
    on(setActions.loaded, (state, { set }): State =>
      state.setId === set.id ? withPendingEdits({ ...withSet(state, set), sentence: null, trouble: null }) : state,
    ),
    on(setActions.mastersLoaded, (state, { setId, masters, from, total }): State => {
      if (state.setId !== setId) return state;
      const found = new Set(from === 0 ? [] : state.found);
      for (const { id } of masters) found.add(id);
      const merged = withMasters({ ...state, total, found }, masters).masters;
      if (found.size < total) return withPendingEdits({ ...state, masters: merged, total, found });
      // The whole list is here: what was known before and is not in it has gone meanwhile.
      const here = merged.filter(({ id }) => found.has(id));
      const selected = state.selected.filter((id) => found.has(id));
      return withPendingEdits({ ...state, masters: here, total: here.length, found: null, selected, trouble: null });
    }),
    on(setActions.loadFailed, (state, { setId, sentence }): State => (state.setId === setId ? { ...state, trouble: sentence } : state)),
    on(setActions.notThere, (state, { setId, sentence }): State => (state.setId === setId ? { ...state, sentence, trouble: null } : state)),
    on(setActions.changedByHand, (state, { setId, change }): State =>
      state.set?.id === setId ? changed(state, state.set, change) : state,
    ),
    on(setActions.eventCame, (state, { event }): State => {
      switch (event.type) {
        case 'masters':
          return withPendingEdits(withMasters(state, inTheirPlaces(state, event.masters)));
        case 'masters-removed':
          return withPendingEdits(withoutMasters(state, new Set(event.masterIds)));
        case 'order':
          return withPendingEdits({ ...state, masters: inOrder(state.masters, event.masterIds) });
        case 'set':
          return state.setId === event.set.id ? withPendingEdits(withSet(state, event.set)) : state;
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
    on(setActions.editSent, (state): State => ({ ...state, sending: true })),
    on(setActions.editSaved, (state, { revisions }): State => {
      const [saved, ...pendingEdits] = state.pendingEdits;
      const rest = { ...state, pendingEdits, sending: false };
      return saved?.setId === state.setId ? withRevisions(rest, revisions) : rest;
    }),
    on(setActions.editRefused, (state): State => {
      const [refused, ...pendingEdits] = state.pendingEdits;
      const rest = { ...state, pendingEdits, sending: false };
      if (refused?.setId !== state.setId) return rest;
      const { edit } = refused;
      if (edit.kind === 'set') return withPendingEdits(state.set ? { ...rest, set: { ...state.set, ...named(edit.before) } } : rest);
      return withPendingEdits({ ...applied(rest, inverse(edit)), undo: [], redo: [] });
    }),
  ),
  extraSelectors: ({ selectSet, selectMasters, selectSelected, selectPendingEdits, selectTotal, selectFound }) => {
    const selectFilter = createSelector(selectSet, (set): Filter => set?.filter ?? ALL_PICTURES);
    const selectSelectedMasters = createSelector(selectMasters, selectSelected, (masters, selected) => {
      const ids = new Set(selected);
      return masters.filter(({ id }) => ids.has(id));
    });
    return {
      selectFilter,
      /** Whether all pictures of the set are here: before that their number says nothing. */
      selectIsWhole: createSelector(selectTotal, selectFound, (total, found) => total !== null && found === null),
      /** What the filter lets through, in the order of the set. */
      selectShown: createSelector(selectMasters, selectFilter, (masters, filter) =>
        isOpen(filter) ? masters : masters.filter((master) => passes(filter, master)),
      ),
      selectSelectedMasters,
      /** The presets chosen for the set, in their order. */
      selectPresetIds: createSelector(selectSet, (set) => set?.presetIds ?? NO_PRESETS),
      /** What is to be kept next. */
      selectNextPendingEdit: createSelector(selectPendingEdits, ([first]) => first ?? null),
      selectArriving: createSelector(selectMasters, (masters) => masters.some(({ state }) => state === 'arriving')),
      selectBytes: createSelector(selectMasters, weightOf),
      selectSelectedBytes: createSelector(selectSelectedMasters, weightOf),
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

/** What each change of a set is called when it is refused. */
const CHANGES: Record<keyof SetChange, string> = {
  title: 'the name of the set',
  filter: 'what is shown',
  presetIds: 'the chosen presets',
  houseRulesId: 'the house rules',
  shelf: 'where the set is kept',
  rights: 'the details of the set',
  place: 'where the files go',
  once: 'what is varied this once',
  secondLooks: 'what is to be looked at again',
  remake: 'whether earlier files are made again',
  keepsEarlier: 'whether files of earlier names stay',
  copies: 'what becomes of older copies',
};

/** A change of the set's own fields: known here at once, sent in its turn. What is typed letter by letter is sent once. */
function changed(state: State, set: SetDetail, change: SetChange): State {
  const fields = Object.keys(named(change)) as (keyof SetChange)[];
  const before = Object.fromEntries(fields.map((field) => [field, set[field]])) as SetChange;
  const edit: SetEdit = { kind: 'set', label: fields.map((field) => CHANGES[field]).join(', '), before, after: change };
  const last = state.pendingEdits.at(-1);
  const waits = last !== undefined && (state.pendingEdits.length > 1 || !state.sending);
  const joins = waits && last.setId === set.id && last.edit.kind === 'set' && last.edit.label === edit.label;
  const earlier = joins ? state.pendingEdits.slice(0, -1) : state.pendingEdits;
  const joined = joins && last.edit.kind === 'set' ? { ...edit, before: last.edit.before } : edit;
  return { ...state, set: { ...set, ...named(change) }, pendingEdits: [...earlier, { setId: set.id, edit: joined }] };
}

function done(state: State, edit: Edit): State {
  return state.setId ? { ...applied(state, edit), pendingEdits: [...state.pendingEdits, { setId: state.setId, edit }] } : state;
}

/** With what was done here on top of what the server tells. */
function withPendingEdits(state: State): State {
  const edits = state.pendingEdits.flatMap(({ setId, edit }) => (setId === state.setId ? [edit] : []));
  if (edits.length === 0) return state;
  let { set, masters } = state;
  for (const edit of edits)
    if (edit.kind !== 'set') masters = edited(masters, edit);
    else if (set) set = { ...set, ...named(edit.after) };
  return { ...state, set, masters };
}

/** What is told of the set, unless it is older than what is known: news of a change may come after the answer to the next one. */
const withSet = (state: State, set: SetDetail): State => (state.set && set.revision < state.set.revision ? state : { ...state, set });

/** From now on what was told before these changes is known to be older. */
function withRevisions(state: State, revisions: Revisions): State {
  const set = state.set && { ...state.set, revision: Math.max(state.set.revision, revisions.set ?? 0) };
  const of = revisions.masters ?? {};
  const masters = state.masters.map((master) =>
    (of[master.id] ?? 0) > master.revision ? { ...master, revision: of[master.id]! } : master,
  );
  return { ...state, set, masters };
}

/** Masters that are new or have changed, in the order of the set. */
function withMasters(state: State, changed: readonly Master[]): State {
  if (changed.length === 0) return state;
  const byId = new Map(state.masters.map((master) => [master.id, master]));
  // A part of the list, or news of a change, may come later than what tells of the next one.
  for (const master of changed) if (master.revision >= (byId.get(master.id)?.revision ?? 0)) byId.set(master.id, master);
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
