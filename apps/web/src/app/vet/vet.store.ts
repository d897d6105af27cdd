import type { StoredHouseRules, VetGroup } from '@rundle/core';
import { createActionGroup, createFeature, createReducer, emptyProps, on, props } from '@ngrx/store';
import { setActions } from '../set/set.store';

export const vetActions = createActionGroup({
  source: 'Vet',
  events: {
    Wanted: emptyProps(),
    Vetted: props<{ setId: string; groups: VetGroup[] }>(),
    'House rules loaded': props<{ list: StoredHouseRules[] }>(),
    'House rules wanted': emptyProps(),
    'Read again pressed': props<{ masterIds: string[] }>(),
  },
});

interface State {
  setId: string | null;
  groups: VetGroup[];
  /** Whether the groups are those of the set that is open. */
  vetted: boolean;
  houseRules: StoredHouseRules[];
}

const initial: State = { setId: null, groups: [], vetted: false, houseRules: [] };

export const vetFeature = createFeature({
  name: 'vet',
  reducer: createReducer(
    initial,
    on(setActions.pageOpened, (state, { setId }): State =>
      state.setId === setId ? state : { ...initial, setId, houseRules: state.houseRules },
    ),
    on(vetActions.vetted, (state, { setId, groups }): State => (state.setId === setId ? { ...state, groups, vetted: true } : state)),
    on(vetActions.houseRulesLoaded, (state, { list }): State => ({ ...state, houseRules: list })),
  ),
});
