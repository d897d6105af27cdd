import type { Preset, StoredPreset } from '@rundle/core';
import { createActionGroup, createFeature, createReducer, emptyProps, on, props } from '@ngrx/store';

export const presetsActions = createActionGroup({
  source: 'Presets',
  events: {
    Wanted: emptyProps(),
    Loaded: props<{ presets: StoredPreset[] }>(),
    'New one asked for': props<{ preset: Preset; from: string | null }>(),
    /** `from`: id of the draft that it was made of, which is none any more. */
    Made: props<{ preset: StoredPreset; from: string | null }>(),
    'Save pressed': props<{ id: string; preset: Preset; version: number }>(),
    Saved: props<{ preset: StoredPreset }>(),
    'Deletion asked for': props<{ id: string }>(),
    Deleted: props<{ id: string }>(),
  },
});

interface State {
  list: StoredPreset[];
  loaded: boolean;
}

const initial: State = { list: [], loaded: false };

export const presetsFeature = createFeature({
  name: 'presets',
  reducer: createReducer(
    initial,
    on(presetsActions.loaded, (_state, { presets }): State => ({ list: presets, loaded: true })),
    on(presetsActions.made, (state, { preset }): State => ({ ...state, list: [...state.list, preset] })),
    on(presetsActions.saved, (state, { preset }): State => ({
      ...state,
      list: state.list.map((other) => (other.id === preset.id ? preset : other)),
    })),
    on(presetsActions.deleted, (state, { id }): State => ({ ...state, list: state.list.filter((other) => other.id !== id) })),
  ),
});
