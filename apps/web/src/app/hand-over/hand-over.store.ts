import type { Delivery, HandOverView, StandInsView, StoredReceiver } from '@rundle/core';
import { setActions } from '../set/set.store';
import { createActionGroup, createFeature, createReducer, createSelector, emptyProps, on, props } from '@ngrx/store';

export type DeliverableOutput = HandOverView['outputs'][number];

export const handOverActions = createActionGroup({
  source: 'Hand over',
  events: {
    /** A page shows what is out: files on the disk may be others by now. */
    'Looked at': emptyProps(),
    /** About the set that is open: what comes late for another is dropped by the effect. */
    Loaded: props<{ view: HandOverView }>(),
    'Deliveries loaded': props<{ deliveries: Delivery[] }>(),
    'Delivery changed': props<{ delivery: Delivery }>(),
    /** A page shows who is sent pictures. */
    'Receivers wanted': emptyProps(),
    'Receivers loaded': props<{ receivers: StoredReceiver[]; standIns: StandInsView }>(),
  },
});

interface State {
  /** What can be handed over. */
  view: HandOverView | null;
  /** Files that cannot: somebody has changed them, or they are not at their places. */
  aside: readonly DeliverableOutput[];
  deliveries: readonly Delivery[];
  receivers: readonly StoredReceiver[] | null;
  standIns: StandInsView | null;
}

const initial: State = { view: null, aside: [], deliveries: [], receivers: null, standIns: null };

export const handOverFeature = createFeature({
  name: 'handOver',
  reducer: createReducer(
    initial,
    on(setActions.pageOpened, ({ receivers, standIns }): State => ({ ...initial, receivers, standIns })),
    on(handOverActions.loaded, (state, { view }): State => {
      const isAside = ({ file }: DeliverableOutput) => file === 'changed' || file === 'missing';
      const outputs = view.outputs.filter((output) => !isAside(output));
      return { ...state, view: { ...view, outputs }, aside: view.outputs.filter(isAside) };
    }),
    on(handOverActions.deliveriesLoaded, (state, { deliveries }): State => ({ ...state, deliveries })),
    on(handOverActions.deliveryChanged, (state, { delivery }): State => {
      const isKnown = state.deliveries.some(({ id }) => id === delivery.id);
      const deliveries = isKnown
        ? state.deliveries.map((one) => (one.id === delivery.id ? delivery : one))
        : [delivery, ...state.deliveries];
      return { ...state, deliveries };
    }),
    on(handOverActions.receiversLoaded, (state, { receivers, standIns }): State => ({ ...state, receivers, standIns })),
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
    /** The presets that have made something, in the order of their columns. */
    selectPresets: createSelector(selectView, (view) => {
      const found = new Map<string, { id: string; title: string; folder: string; files: number }>();
      for (const { presetId, presetTitle, folder } of view?.outputs ?? []) {
        const known = found.get(presetId);
        found.set(presetId, { id: presetId, title: presetTitle, folder, files: (known?.files ?? 0) + 1 });
      }
      return [...found.values()];
    }),
  }),
});
