import type { StoredHouseRules, VetGroup } from '@rundle/core';
import { createActionGroup, createFeature, createReducer, createSelector, emptyProps, on, props } from '@ngrx/store';
import { selectBasis } from '../plan/plan.store';
import { setActions } from '../set/set.store';

export const vetActions = createActionGroup({
  source: 'Vet',
  events: {
    Wanted: emptyProps(),
    /** About the set that is open: what comes late for another is dropped by the effect. */
    Vetted: props<{ groups: VetGroup[]; basis: string | null }>(),
    'House rules loaded': props<{ list: StoredHouseRules[] }>(),
    'House rules wanted': emptyProps(),
    'Read again pressed': props<{ masterIds: string[] }>(),
  },
});

interface State {
  groups: VetGroup[];
  /** What the groups were found from; null: nothing has been vetted yet. */
  basis: string | null;
  houseRules: StoredHouseRules[];
}

const initial: State = { groups: [], basis: null, houseRules: [] };

export const vetFeature = createFeature({
  name: 'vet',
  reducer: createReducer(
    initial,
    on(setActions.pageOpened, (state): State => ({ ...initial, houseRules: state.houseRules })),
    on(vetActions.vetted, (state, { groups, basis }): State => ({ ...state, groups, basis })),
    on(vetActions.houseRulesLoaded, (state, { list }): State => ({ ...state, houseRules: list })),
  ),
  extraSelectors: ({ selectBasis: selectVettedFrom }) => ({
    /** Whether anything has been found yet in the set that is open. */
    selectVetted: createSelector(selectVettedFrom, (basis) => basis !== null),
    /** Whether it is about what is chosen now. */
    selectIsCurrent: createSelector(selectVettedFrom, selectBasis, (from, basis) => from !== null && from === basis),
  }),
});
