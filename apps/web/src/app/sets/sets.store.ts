import type { SetSummary, Shelf } from '@rundle/core';
import type { FoundFile } from '../arrive/dropped-files';
import { createActionGroup, createFeature, createReducer, emptyProps, on, props } from '@ngrx/store';

export const setsActions = createActionGroup({
  source: 'Sets',
  events: {
    'Page opened': emptyProps(),
    'Page left': emptyProps(),
    'List loaded': props<{ sets: SetSummary[] }>(),
    /** With pictures that were dropped on the list, or none. */
    'New set asked for': props<{ title: string; files: FoundFile[] }>(),
    'Shelf chosen': props<{ setId: string; shelf: Shelf }>(),
    'Finish pressed': props<{ setId: string }>(),
    'Set changed': props<{ set: SetSummary }>(),
    'Duplicate asked for': props<{ setId: string }>(),
    'Set duplicated': props<{ set: SetSummary }>(),
    'Set made': props<{ set: SetSummary; files: FoundFile[] }>(),
  },
});

interface State {
  list: SetSummary[];
  loaded: boolean;
}

const initial: State = { list: [], loaded: false };

export const setsFeature = createFeature({
  name: 'sets',
  reducer: createReducer(
    initial,
    on(setsActions.listLoaded, (_state, { sets }) => ({ list: sets, loaded: true })),
    on(setsActions.setChanged, (state, { set }) => ({ ...state, list: state.list.map((one) => (one.id === set.id ? set : one)) })),
    on(setsActions.setDuplicated, (state, { set }) => ({ ...state, list: [set, ...state.list] })),
    on(setsActions.setMade, (state, { set }) => ({ ...state, list: [set, ...state.list] })),
  ),
});
