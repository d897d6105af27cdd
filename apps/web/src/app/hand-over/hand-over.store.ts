import type { HandOverView } from '@rundle/core';
import { setActions } from '../set/set.store';
import { createActionGroup, createFeature, createReducer, createSelector, on, props } from '@ngrx/store';

export const handOverActions = createActionGroup({
  source: 'Hand over',
  events: {
    /** About the set that is open: what comes late for another is dropped by the effect. */
    Loaded: props<{ view: HandOverView }>(),
  },
});

interface State {
  view: HandOverView | null;
}

const initial: State = { view: null };

export const handOverFeature = createFeature({
  name: 'handOver',
  reducer: createReducer(
    initial,
    on(setActions.pageOpened, (): State => initial),
    on(handOverActions.loaded, (_state, { view }): State => ({ view })),
  ),
  extraSelectors: ({ selectView }) => ({
    selectReady: createSelector(selectView, (view) => view?.outputs.length ?? 0),
    /** Weight before, counted once per master, and after. */
    selectWeights: createSelector(selectView, (view) => {
      const outputs = view?.outputs ?? [];
      const masters = new Map(outputs.map(({ masterId, masterBytes }) => [masterId, masterBytes]));
      return {
        before: [...masters.values()].reduce((sum, bytes) => sum + bytes, 0),
        after: outputs.reduce((sum, { bytes }) => sum + bytes, 0),
      };
    }),
  }),
});
