import type { StoredHouseRules, VetGroup } from '@rundle/core';
import { createActionGroup, createFeature, createReducer, emptyProps, on, props } from '@ngrx/store';
import { setActions } from '../set/set.store';

export const vetActions = createActionGroup({
  source: 'Vet',
  events: {
    Wanted: emptyProps(),
    /** About the set that is open: what comes late for another is dropped by the effect. */
    Vetted: props<{ groups: VetGroup[] }>(),
    'House rules loaded': props<{ list: StoredHouseRules[] }>(),
    'House rules wanted': emptyProps(),
    'Read again pressed': props<{ masterIds: string[] }>(),
  },
});

interface State {
  groups: VetGroup[];
  /** Whether the groups are those of the set that is open. */
  vetted: boolean;
  houseRules: StoredHouseRules[];
}

const initial: State = { groups: [], vetted: false, houseRules: [] };

export const vetFeature = createFeature({
  name: 'vet',
  reducer: createReducer(
    initial,
    on(setActions.pageOpened, (state): State => ({ ...initial, houseRules: state.houseRules })),
    on(vetActions.vetted, (state, { groups }): State => ({ ...state, groups, vetted: true })),
    on(vetActions.houseRulesLoaded, (state, { list }): State => ({ ...state, houseRules: list })),
  ),
});
