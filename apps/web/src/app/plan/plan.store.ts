import type { Output, PlannedOutput, PlanView, Run, RunDetail } from '@rundle/core';
import { createActionGroup, createFeature, createReducer, createSelector, on, emptyProps, props } from '@ngrx/store';
import { setActions } from '../set/set.store';

export const planActions = createActionGroup({
  source: 'Run sheet',
  events: {
    'Set opened': props<{ setId: string }>(),
    'Last run loaded': props<{ setId: string; run: RunDetail | null }>(),
    'Preset toggled': props<{ presetId: string }>(),
    'Plan again pressed': emptyProps(),
    Planned: props<{ setId: string } & PlanView>(),
    'Not planned': props<{ setId: string; sentence: string }>(),
    'Run pressed': emptyProps(),
    'Run started': props<{ run: RunDetail }>(),
    'Run refused': emptyProps(),
    'Cancel pressed': props<{ runId: string }>(),
  },
});

interface State {
  setId: string | null;
  chosen: string[];
  planned: PlannedOutput[];
  /** What is to be said once, of the whole plan. */
  notices: PlanView['notices'];
  credits: PlanView['credits'];
  sentence: string | null;
  busy: boolean;
  run: Run | null;
  outputs: Record<string, Output>;
}

const NOTHING = { planned: [], notices: [], credits: [] };

const initial: State = { ...NOTHING, setId: null, chosen: [], sentence: null, busy: false, run: null, outputs: {} };

const byId = (outputs: readonly Output[]): Record<string, Output> => Object.fromEntries(outputs.map((output) => [output.id, output]));

const sameIds = (a: readonly string[], b: readonly string[]): boolean => a.length === b.length && a.every((id) => b.includes(id));

const ENDED = new Set<Output['state']>(['done', 'failed', 'skipped', 'cancelled']);

export const planFeature = createFeature({
  name: 'plan',
  reducer: createReducer(
    initial,
    on(planActions.setOpened, (state, { setId }): State => (state.setId === setId ? state : { ...initial, setId })),
    // What was chosen for the set, here or on another page, unless a run is shown.
    on(setActions.loaded, (state, { set }): State => (state.run || state.chosen.length ? state : { ...state, chosen: set.presetIds })),
    on(planActions.lastRunLoaded, (state, { setId, run }): State => {
      if (state.setId !== setId || !run) return state;
      // Other presets have been chosen since: then a plan for those is wanted, not the old run.
      if (state.chosen.length && !sameIds(state.chosen, run.presetIds)) return state;
      const { outputs, ...rest } = run;
      return { ...state, chosen: state.chosen.length ? state.chosen : run.presetIds, run: rest, outputs: byId(outputs) };
    }),
    on(planActions.presetToggled, (state, { presetId }): State => ({
      ...state,
      run: null,
      outputs: {},
      busy: true,
      sentence: null,
      chosen: state.chosen.includes(presetId) ? state.chosen.filter((id) => id !== presetId) : [...state.chosen, presetId],
    })),
    on(planActions.planAgainPressed, (state): State => ({ ...state, run: null, outputs: {}, busy: true })),
    // Answers may come after another set has been opened.
    on(planActions.planned, (state, { setId, outputs, notices, credits }): State =>
      state.setId === setId ? { ...state, planned: outputs, notices, credits, sentence: null, busy: false } : state,
    ),
    on(planActions.notPlanned, (state, { setId, sentence }): State =>
      state.setId === setId ? { ...state, ...NOTHING, sentence, busy: false } : state,
    ),
    on(planActions.runPressed, (state): State => ({ ...state, busy: true })),
    on(planActions.runStarted, (state, { run: { outputs, ...run } }): State =>
      state.setId === run.setId ? { ...state, run, outputs: byId(outputs), busy: false } : state,
    ),
    on(planActions.runRefused, (state): State => ({ ...state, busy: false })),
    on(setActions.eventCame, (state, { event }): State => {
      if (event.type === 'outputs') {
        const ours = event.outputs.filter(({ runId }) => runId === state.run?.id);
        return ours.length ? { ...state, outputs: { ...state.outputs, ...byId(ours) } } : state;
      }
      // A run that another page has started is followed here too, once its outputs are loaded.
      return event.type === 'run' && event.run.id === state.run?.id ? { ...state, run: event.run } : state;
    }),
  ),
  extraSelectors: ({ selectPlanned, selectOutputs, selectRun }) => {
    const selectRunOutputs = createSelector(selectOutputs, (outputs) => Object.values(outputs));
    return {
      /** Cells by master and preset: what a run did or does, else what is planned. */
      selectCells: createSelector(selectPlanned, selectRunOutputs, selectRun, (planned, outputs, run): Record<string, Cell> => {
        const cells: Cell[] = run
          ? outputs.map((output) => ({ ...output, kind: 'output' }))
          : planned.map((output) => ({ ...output, kind: 'planned' }));
        return Object.fromEntries(cells.map((cell) => [cellKey(cell.masterId, cell.presetId), cell]));
      }),
      selectTotals: createSelector(selectPlanned, selectRunOutputs, selectRun, (planned, outputs, run) => {
        const files = run
          ? outputs.filter(({ state }) => state !== 'failed' && state !== 'skipped')
          : planned.filter(({ status }) => status === 'planned');
        return { files: files.length, bytes: files.reduce((sum, file) => sum + weightOf(file), 0) };
      }),
      selectProgress: createSelector(selectRunOutputs, selectRun, (outputs, run) => {
        if (!run) return null;
        const count = (state: Output['state']) => outputs.filter((output) => output.state === state).length;
        const ended = outputs.filter(({ state }) => ENDED.has(state)).length;
        const bytes = outputs.reduce((sum, { bytes }) => sum + (bytes ?? 0), 0);
        return {
          running: run.state === 'running',
          stopping: run.stopping,
          cancelled: run.state === 'cancelled',
          total: outputs.length,
          ended,
          bytes,
          done: count('done'),
          failed: count('failed'),
          skipped: count('skipped'),
        };
      }),
    };
  },
});

/** One cell of the run sheet. */
export type Cell = (Output & { kind: 'output' }) | (PlannedOutput & { kind: 'planned' });

export const cellKey = (masterId: string, presetId: string): string => `${masterId} ${presetId}`;

/** The weight a file has, or is expected to have, in bytes. */
export function weightOf(file: Output | PlannedOutput): number {
  if ('state' in file) return file.bytes ?? (ENDED.has(file.state) ? 0 : file.expectedBytes);
  return file.status === 'planned' ? file.expectedBytes : 0;
}
