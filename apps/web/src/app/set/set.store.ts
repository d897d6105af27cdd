import type { Master, Problem, SetDetail, SetEvent } from '@rundle/core';
import { createActionGroup, createFeature, createReducer, createSelector, emptyProps, on, props } from '@ngrx/store';

/** A file on its way to the server. */
export interface Upload {
  id: string;
  fileName: string;
  bytes: number;
  sent: number;
}

export const setActions = createActionGroup({
  source: 'Set',
  events: {
    'Page opened': props<{ setId: string }>(),
    'Page left': emptyProps(),
    Loaded: props<{ set: SetDetail }>(),
    'Not loaded': props<{ sentence: string }>(),
    'Event came': props<{ event: SetEvent }>(),
    'Renamed by hand': props<{ setId: string; title: string }>(),
    'Files dropped': props<{ setId: string; files: File[] }>(),
    'Upload begun': props<{ upload: Upload }>(),
    'Upload went on': props<{ id: string; sent: number }>(),
    'Upload ended': props<{ id: string; masters: Master[]; refused: Problem[] }>(),
    'Refusals put away': emptyProps(),
    'Picture clicked': props<{ masterId: string; range: boolean }>(),
    'Selection made': props<{ masterIds: string[] }>(),
    'Removal asked for': props<{ setId: string; masterIds: string[] }>(),
  },
});

interface State {
  setId: string | null;
  set: SetDetail | null;
  sentence: string | null;
  uploads: Upload[];
  refused: Problem[];
  selected: string[];
  /** Where a range selection begins. */
  anchor: string | null;
}

const initial: State = { setId: null, set: null, sentence: null, uploads: [], refused: [], selected: [], anchor: null };

export const setFeature = createFeature({
  name: 'set',
  reducer: createReducer(
    initial,
    on(setActions.pageOpened, (state, { setId }): State => (state.setId === setId ? state : { ...initial, setId })),
    on(setActions.loaded, (state, { set }): State => (state.setId === set.id ? { ...state, set, sentence: null } : state)),
    on(setActions.notLoaded, (state, { sentence }): State => ({ ...state, sentence })),
    on(setActions.renamedByHand, (state, { title }): State => (state.set ? { ...state, set: { ...state.set, title } } : state)),
    on(setActions.uploadBegun, (state, { upload }): State => ({ ...state, uploads: [...state.uploads, upload] })),
    on(setActions.uploadWentOn, (state, { id, sent }): State => ({
      ...state,
      uploads: state.uploads.map((upload) => (upload.id === id ? { ...upload, sent } : upload)),
    })),
    on(setActions.uploadEnded, (state, { id, masters, refused }): State => ({
      ...withMasters(state, masters),
      uploads: state.uploads.filter((upload) => upload.id !== id),
      refused: [...state.refused, ...refused],
    })),
    on(setActions.refusalsPutAway, (state): State => ({ ...state, refused: [] })),
    on(setActions.eventCame, (state, { event }): State => {
      if (event.type === 'masters') return withMasters(state, event.masters);
      if (event.type === 'masters-removed') return withoutMasters(state, new Set(event.masterIds));
      return state;
    }),
    on(setActions.pictureClicked, (state, { masterId, range }): State => ({
      ...state,
      selected: range ? rangeTo(state, masterId) : toggled(state.selected, masterId),
      anchor: masterId,
    })),
    on(setActions.selectionMade, (state, { masterIds }): State => ({ ...state, selected: masterIds, anchor: null })),
  ),
  extraSelectors: ({ selectSet, selectSelected }) => ({
    selectMasters: createSelector(selectSet, (set) => set?.masters ?? []),
    selectBytes: createSelector(selectSet, (set) => (set?.masters ?? []).reduce((sum, { bytes }) => sum + bytes, 0)),
    selectSelectedBytes: createSelector(selectSet, selectSelected, (set, selected) =>
      (set?.masters ?? []).reduce((sum, { id, bytes }) => (selected.includes(id) ? sum + bytes : sum), 0),
    ),
  }),
});

/** Masters that are new or have changed, in the order of the set. */
function withMasters(state: State, changed: readonly Master[]): State {
  if (!state.set || changed.length === 0) return state;
  const byId = new Map(state.set.masters.map((master) => [master.id, master]));
  // An answer to an upload may come later than the event that says the picture has been read.
  for (const master of changed) if (master.state !== 'arriving' || !byId.has(master.id)) byId.set(master.id, master);
  const masters = [...byId.values()].sort((a, b) => a.position - b.position);
  return { ...state, set: { ...state.set, masters } };
}

function withoutMasters(state: State, gone: ReadonlySet<string>): State {
  if (!state.set) return state;
  const masters = state.set.masters.filter(({ id }) => !gone.has(id));
  return { ...state, set: { ...state.set, masters }, selected: state.selected.filter((id) => !gone.has(id)) };
}

const toggled = (ids: readonly string[], id: string): string[] => (ids.includes(id) ? ids.filter((other) => other !== id) : [...ids, id]);

function rangeTo({ set, anchor, selected }: State, id: string): string[] {
  const order = (set?.masters ?? []).map((master) => master.id);
  const from = anchor ? order.indexOf(anchor) : -1;
  const to = order.indexOf(id);
  if (from < 0 || to < 0) return toggled(selected, id);
  return [...new Set([...selected, ...order.slice(Math.min(from, to), Math.max(from, to) + 1)])];
}
