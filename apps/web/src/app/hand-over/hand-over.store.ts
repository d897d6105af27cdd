import type { HandOverView } from '@rundle/core';
import { createActionGroup, createFeature, createReducer, createSelector, on, props } from '@ngrx/store';

export const handOverActions = createActionGroup({
  source: 'Hand over',
  events: {
    'Set opened': props<{ setId: string }>(),
    Loaded: props<{ setId: string; view: HandOverView }>(),
  },
});

interface State {
  setId: string | null;
  view: HandOverView | null;
}

const initial: State = { setId: null, view: null };

export const handOverFeature = createFeature({
  name: 'handOver',
  reducer: createReducer(
    initial,
    on(handOverActions.setOpened, (state, { setId }): State => (state.setId === setId ? state : { ...initial, setId })),
    on(handOverActions.loaded, (state, { setId, view }): State => (state.setId === setId ? { ...state, view } : state)),
  ),
  extraSelectors: ({ selectView }) => ({
    selectReady: createSelector(selectView, (view) => view?.outputs.length ?? 0),
    /** Weight before, counted once per master, and after. */
    selectWeights: createSelector(selectView, (view) => {
      const outputs = view?.outputs ?? [];
      const masters = new Map(outputs.map(({ masterId, masterBytes }) => [masterId, masterBytes]));
      return {
        before: [...masters.values()].reduce((sum, bytes) => sum + bytes, 0),
        after: outputs.reduce((sum, { bytes }) => sum + (bytes ?? 0), 0),
      };
    }),
  }),
});
