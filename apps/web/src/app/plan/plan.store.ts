import type { Output, PlannedOutput, PlanView, Run, RunDetail } from '@rundle/core';
import { createActionGroup, createFeature, createReducer, createSelector, on, emptyProps, props } from '@ngrx/store';
import { presetsFeature } from '../presets/presets.store';
import { setActions, setFeature } from '../set/set.store';

/** All of them are about the set that is open: effects drop what comes late for another. */
export const planActions = createActionGroup({
  source: 'Run sheet',
  events: {
    /** Null: there is none, or other presets have been chosen since. */
    'Last run loaded': props<{ run: RunDetail | null }>(),
    'Plan again pressed': emptyProps(),
    Planned: props<{ view: PlanView }>(),
    'Not planned': props<{ sentence: string }>(),
    'Run pressed': emptyProps(),
    'Run started': props<{ run: RunDetail }>(),
    'Run refused': emptyProps(),
    'Cancel pressed': props<{ runId: string }>(),
  },
});

interface State {
  planned: PlannedOutput[];
  /** What is to be said once, of the whole plan. */
  notices: PlanView['notices'];
  credits: PlanView['credits'];
  sentence: string | null;
  busy: boolean;
  /** The run that is shown; null: the plan is. */
  run: Run | null;
  outputs: Record<string, Output>;
  /** A run that was shown and is not to come back, since a plan was asked for. */
  putAway: string | null;
}

const NOTHING = { planned: [], notices: [], credits: [] };

const initial: State = { ...NOTHING, sentence: null, busy: false, run: null, outputs: {}, putAway: null };

const byId = (outputs: readonly Output[]): Record<string, Output> => Object.fromEntries(outputs.map((output) => [output.id, output]));

export const sameIds = (a: readonly string[], b: readonly string[]): boolean => a.length === b.length && a.every((id) => b.includes(id));

const ENDED = new Set<Output['state']>(['done', 'failed', 'skipped', 'cancelled']);

/** A plan is wanted in place of the run that is shown. */
const withoutRun = (state: State): State => ({
  ...state,
  run: null,
  outputs: {},
  busy: true,
  sentence: null,
  putAway: state.run?.id ?? state.putAway,
});

export const planFeature = createFeature({
  name: 'plan',
  reducer: createReducer(
    initial,
    on(setActions.pageOpened, (): State => initial),
    on(planActions.lastRunLoaded, (state, { run }): State => {
      if (!run || run.id === state.putAway) return state;
      const { outputs, ...rest } = run;
      return { ...state, run: rest, outputs: byId(outputs) };
    }),
    on(setActions.changedByHand, (state, { change }): State => (change.presetIds ? withoutRun(state) : state)),
    on(planActions.planAgainPressed, withoutRun),
    on(planActions.planned, (state, { view: { outputs, notices, credits } }): State => ({
      ...state,
      planned: outputs,
      notices,
      credits,
      sentence: null,
      busy: false,
    })),
    on(planActions.notPlanned, (state, { sentence }): State => ({ ...state, ...NOTHING, sentence, busy: false })),
    on(planActions.runPressed, (state): State => ({ ...state, busy: true })),
    on(planActions.runStarted, (state, { run: { outputs, ...run } }): State => ({ ...state, run, outputs: byId(outputs), busy: false })),
    on(planActions.runRefused, (state): State => ({ ...state, busy: false })),
    on(setActions.eventCame, (state, { event }): State => {
      switch (event.type) {
        case 'outputs': {
          const ours = event.outputs.filter(({ runId }) => runId === state.run?.id);
          return ours.length ? { ...state, outputs: { ...state.outputs, ...byId(ours) } } : state;
        }
        case 'set': {
          // Another page has chosen other presets: then a plan for those is wanted, not the old run.
          const { presetIds } = event.set;
          const old = state.run && state.run.state !== 'running' && presetIds.length > 0 && !sameIds(presetIds, state.run.presetIds);
          return old ? withoutRun(state) : state;
        }
        case 'run':
          // A run that another page has started is followed here too, once its outputs are loaded.
          return event.run.id === state.run?.id ? { ...state, run: event.run } : state;
        default:
          return state;
      }
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

/** The presets of the columns: those of the run that is shown, else those that are chosen for the set. */
export const selectColumnIds = createSelector(
  planFeature.selectRun,
  setFeature.selectPresetIds,
  (run, chosen): readonly string[] => run?.presetIds ?? chosen,
);

/**
 * All that a plan or a vetting depends on beside the pictures; changes of the filter are not among it. The server goes by what has been
 * saved, so that it changes once more when a change has been.
 */
export const selectBasis = createSelector(
  setFeature.selectSet,
  setFeature.selectPendingEdits,
  presetsFeature.selectList,
  (set, pending, presets) => {
    if (!set) return null;
    const saving = pending.some(({ setId, edit }) => setId === set.id && edit.kind === 'set' && edit.after.filter === undefined);
    const { id, title, presetIds, houseRulesId, rights } = set;
    const versions = presets.flatMap((preset) => (presetIds.includes(preset.id) ? [[preset.id, preset.version]] : []));
    return JSON.stringify({ id, title, presetIds, houseRulesId, rights, versions, saving });
  },
);

/** One cell of the run sheet. */
export type Cell = (Output & { kind: 'output' }) | (PlannedOutput & { kind: 'planned' });

export const cellKey = (masterId: string, presetId: string): string => `${masterId} ${presetId}`;

/** The weight a file has, or is expected to have, in bytes. */
export function weightOf(file: Output | PlannedOutput): number {
  if ('state' in file) return file.bytes ?? (ENDED.has(file.state) ? 0 : file.expectedBytes);
  return file.status === 'planned' ? file.expectedBytes : 0;
}
