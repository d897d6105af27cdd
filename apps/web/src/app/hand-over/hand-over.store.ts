import { type Delivery, type HandOverView, partTitle, type StandInsView, type StoredPreset, type StoredReceiver } from '@rundle/core';
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
  /** Null: not known yet. */
  deliveries: readonly Delivery[] | null;
  receivers: readonly StoredReceiver[] | null;
  standIns: StandInsView | null;
}

/** One of the files that a preset makes of a picture, as a column. */
export interface OutputColumn {
  presetId: string;
  part: string;
  presetTitle: string;
  /** With what tells it from the preset's other files. */
  title: string;
}

/** The columns of all outputs: presets in the order in which they were met, their files in that in which they are made. */
export function columnsOf(outputs: readonly DeliverableOutput[], presets: readonly StoredPreset[]): OutputColumn[] {
  const found = new Map<string, OutputColumn>();
  for (const { presetId, part, presetTitle } of outputs) {
    const preset = presets.find(({ id }) => id === presetId)?.preset;
    const title = part === '' ? presetTitle : `${presetTitle}: ${preset ? partTitle(preset, part) : part}`;
    found.set(`${presetId} ${part}`, { presetId, part, presetTitle, title });
  }
  const order = [...new Set(outputs.map(({ presetId }) => presetId))];
  const placeOf = ({ presetId, part }: OutputColumn) =>
    presets.find(({ id }) => id === presetId)?.preset.size.sizes.findIndex(({ label }) => label === part) ?? -1;
  return [...found.values()].sort((a, b) => order.indexOf(a.presetId) - order.indexOf(b.presetId) || placeOf(a) - placeOf(b));
}

const initial: State = { view: null, aside: [], deliveries: null, receivers: null, standIns: null };

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
      const known = state.deliveries ?? [];
      const isKnown = known.some(({ id }) => id === delivery.id);
      const deliveries = isKnown ? known.map((one) => (one.id === delivery.id ? delivery : one)) : [delivery, ...known];
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
    /** Files over their ceiling, as their presets allow. */
    selectOverCeiling: createSelector(
      selectView,
      (view) => view?.outputs.filter(({ warnings }) => warnings.some(({ code }) => code === 'over-ceiling')).length ?? 0,
    ),
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
