import {
  asksForPlace,
  groupRemarks,
  isOpenRun,
  type Master,
  runCounts,
  runStatus,
  type RunStatus,
  movesIn,
  nameClashes,
  NONE_EARLIER,
  type EarlierFate,
  type Output,
  type OutputOf,
  outputKey,
  type PlannedOutput,
  type PlanView,
  type Run,
  type RunCounts,
  type RunDetail,
  type RunRequest,
  varied,
} from '@rundle/core';
import { createActionGroup, createFeature, createReducer, createSelector, on, emptyProps, props } from '@ngrx/store';
import { presetsFeature } from '../presets/presets.store';
import { runsFeature } from '../runs/runs.store';
import { setActions, setFeature } from '../set/set.store';
import { type Cell, cellOf, type RunSide, totalsOf } from './cells';

/** What a run is to be confined to. */
export type RunOnly = Pick<RunRequest, 'masterIds' | 'pairs'>;

/** All of them are about the set that is open: effects drop what comes late for another. */
export const planActions = createActionGroup({
  source: 'Run sheet',
  events: {
    /** Null: there is none. */
    'Last run loaded': props<{ run: RunDetail | null }>(),
    /** A page shows the plan: files on the disk may be others by now. */
    'Looked at': emptyProps(),
    /** With all that the plan was made from. */
    Planned: props<{ view: PlanView; basis: string | null }>(),
    'Nothing to plan': props<{ basis: string | null }>(),
    'Not planned': props<{ sentence: string; basis: string | null }>(),
    /** Without presets of its own: the chosen ones. */
    'Run pressed': props<{ only: RunOnly; presetIds?: readonly string[] }>(),
    'Run started': props<{ run: RunDetail }>(),
    'Run refused': emptyProps(),
    'Cancel pressed': props<{ runId: string }>(),
    'Pause pressed': props<{ runId: string }>(),
    'Resume pressed': props<{ runId: string }>(),
  },
});

/** What a plan says beside its cells. */
type PlanWords = Pick<PlanView, 'earlier' | 'notices' | 'credits' | 'timeMs' | 'rough' | 'unseen' | 'freeBytes' | 'path' | 'placeProblem'>;

interface State extends PlanWords {
  /** Of the plan that is shown; the next one tells only what has changed since. */
  planId: string | null;
  planned: Readonly<Record<string, PlannedOutput>>;
  sentence: string | null;
  busy: boolean;
  /** What the plan was made from; null: there is none yet. */
  basis: string | null;
  /** The newest run of the set. */
  run: Run | null;
  /** Whether it is known which that is, and whether there is one. */
  runIsKnown: boolean;
  outputs: Readonly<Record<string, Output>>;
  /** Whether the plan is from before the end of that run. */
  planIsOlder: boolean;
}

const NOTHING: PlanWords & Pick<State, 'planId' | 'planned'> = {
  planId: null,
  planned: {},
  earlier: NONE_EARLIER,
  notices: [],
  credits: [],
  timeMs: 0,
  rough: 0,
  unseen: 0,
  freeBytes: null,
  path: null,
  placeProblem: null,
};

const initial: State = {
  ...NOTHING,
  sentence: null,
  busy: false,
  basis: null,
  run: null,
  runIsKnown: false,
  outputs: {},
  planIsOlder: false,
};

const byPlace = <T extends OutputOf>(all: readonly T[]): Record<string, T> => Object.fromEntries(all.map((one) => [outputKey(one), one]));

export const planFeature = createFeature({
  name: 'plan',
  reducer: createReducer(
    initial,
    on(setActions.pageOpened, (): State => initial),
    on(planActions.lastRunLoaded, (state, { run }): State => {
      if (!run) return { ...state, runIsKnown: true };
      const { outputs, ...rest } = run;
      return { ...state, runIsKnown: true, run: rest, outputs: byPlace(outputs), planIsOlder: isOpenRun(rest) };
    }),
    on(planActions.planned, (state, { view, basis }): State => {
      const { id, since, outputs, gone, ...words } = view;
      // The changes of a plan that is not here are of no use: the next one is asked for whole.
      if (since !== null && since !== state.planId) return { ...state, planId: null, busy: false };
      const planned = since === null ? byPlace(outputs) : merged(state.planned, outputs, gone);
      const { earlier, notices, credits, timeMs, rough, unseen, freeBytes, path, placeProblem } = words;
      const told = { earlier, notices, credits, timeMs, rough, unseen, freeBytes, path, placeProblem };
      return { ...state, ...told, basis, planId: id, planned, sentence: null, busy: false, planIsOlder: isOpenRun(state.run) };
    }),
    on(planActions.nothingToPlan, (state, { basis }): State => ({ ...state, ...NOTHING, basis, sentence: null, busy: false })),
    on(planActions.notPlanned, (state, { sentence, basis }): State => ({ ...state, ...NOTHING, basis, sentence, busy: false })),
    on(planActions.runPressed, (state): State => ({ ...state, busy: true })),
    on(planActions.runStarted, (state, { run: { outputs, ...run } }): State => ({
      ...state,
      run,
      runIsKnown: true,
      outputs: byPlace(outputs),
      planIsOlder: true,
      busy: false,
    })),
    on(planActions.runRefused, (state): State => ({ ...state, busy: false })),
    on(setActions.eventCame, (state, { event }): State => {
      switch (event.type) {
        case 'outputs': {
          const ours = event.outputs.filter(({ runId }) => runId === state.run?.id);
          return ours.length ? { ...state, outputs: { ...state.outputs, ...byPlace(ours) } } : state;
        }
        case 'run':
          // A run that another page has started is followed here too, once its outputs are loaded.
          return event.run.id === state.run?.id ? { ...state, run: event.run } : state;
        default:
          return state;
      }
    }),
  ),
  extraSelectors: ({ selectPlanned, selectOutputs, selectRun, selectPlanIsOlder }) => {
    const selectSide = createSelector(selectRun, selectPlanIsOlder, (run, isOlder): RunSide =>
      isOpenRun(run) ? 'open' : isOlder ? 'just-ended' : 'past',
    );
    /** By {@link outputKey}. A cell that nothing has touched is the same object as before. */
    const selectCells = createSelector(
      selectPlanned,
      selectOutputs,
      selectSide,
      presetsFeature.selectList,
      (planned, outputs, side, presets): ReadonlyMap<string, Cell> => {
        const versions = new Map(presets.map(({ id, version }) => [id, version]));
        const keys = new Set([...Object.keys(planned), ...(side === 'past' ? [] : Object.keys(outputs))]);
        const cells = new Map<string, Cell>();
        for (const key of keys) {
          const cell = sameCell(planned[key] ?? null, outputs[key] ?? null, side, versions);
          if (cell) cells.set(key, cell);
        }
        return cells;
      },
    );
    return {
      selectSide,
      selectCells,
      selectTotals: createSelector(selectCells, (cells) => totalsOf([...cells.values()])),
      /** What the run would number because its name is that of another output. */
      selectClashes: createSelector(selectPlanned, selectSide, (planned, side) =>
        side === 'open' ? [] : nameClashes(Object.values(planned)),
      ),
      selectRemarks: createSelector(selectCells, (cells) => groupRemarks([...cells.values()])),
      /** How far the run is, or what came of it; null: there is none. */
      selectProgress: createSelector(
        selectOutputs,
        selectRun,
        setFeature.selectMasters,
        setFeature.selectIsWhole,
        runsFeature.selectAhead,
        (byKey, run, masters, isWhole, ahead): Progress | null =>
          run && progressOf(run, Object.values(byKey), masters, isWhole, ahead.get(run.id) ?? 0),
      ),
    };
  },
});

/** A run of the set as it is told, and what it is doing at this moment. */
export interface Progress extends RunStatus {
  isOpen: boolean;
  counts: RunCounts;
  /** Names of the files that are being made. */
  doing: readonly string[];
}

/** Files tell sooner how far a run is than news of the run do. */
function progressOf(run: Run, outputs: readonly Output[], masters: readonly Master[], isWhole: boolean, ahead: number): Progress {
  const names = new Map(masters.map(({ id, fileName }) => [id, fileName]));
  const failures = new Map(run.counts.failures.map(({ masterId, file }) => [masterId, file]));
  const counts = runCounts(
    outputs.map(({ masterId, state, bytes, warnings, error }) => ({
      masterId,
      master: names.get(masterId) ?? failures.get(masterId) ?? 'a picture',
      state,
      bytes,
      remarks: warnings,
      error,
      isRemoved: isWhole && !names.has(masterId),
    })),
  );
  const doing = outputs.filter(({ state }) => state === 'running').map(({ fileName }) => fileName);
  return { ...runStatus({ ...run, counts }, ahead), isOpen: isOpenRun(run), counts, doing };
}

function merged(
  before: Readonly<Record<string, PlannedOutput>>,
  changed: readonly PlannedOutput[],
  gone: readonly OutputOf[],
): Readonly<Record<string, PlannedOutput>> {
  if (changed.length + gone.length === 0) return before;
  const after = { ...before, ...byPlace(changed) };
  for (const one of gone) delete after[outputKey(one)];
  return after;
}

/** Cells as they were made last, by what they are made of. */
const made = new WeakMap<object, { output: Output | null; side: RunSide; version: number; cell: Cell | null }>();

function sameCell(planned: PlannedOutput | null, output: Output | null, side: RunSide, versions: ReadonlyMap<string, number>): Cell | null {
  const of = planned ?? output;
  if (!of) return null;
  const version = versions.get(of.presetId) ?? 0;
  const known = made.get(of);
  if (known?.output === output && known.side === side && known.version === version) return known.cell;
  const cell = cellOf(planned, output, side, version);
  made.set(of, { output, side, version, cell });
  return cell;
}

/** The presets of the columns: those of a run that is under way, else those that are chosen for the set. */
export const selectColumnIds = createSelector(planFeature.selectRun, setFeature.selectPresetIds, (run, chosen): readonly string[] =>
  run && isOpenRun(run) ? run.presetIds : chosen,
);

/** What becomes of files of an earlier name or place when the set is run. */
export const selectEarlierFate = createSelector(setFeature.selectSet, (set): EarlierFate => (set?.keepsEarlier ? 'keep' : 'go'));

/** Titles of chosen presets that want to be told where their files go, and have not been. */
export const selectAsking = createSelector(setFeature.selectSet, presetsFeature.selectList, (set, presets): readonly string[] =>
  presets.flatMap(({ id, preset }) => {
    const said = set?.once[id];
    return set?.presetIds.includes(id) && asksForPlace(varied(preset, said), said?.place) ? [preset.title] : [];
  }),
);

/** How many files a run takes away, or gives another name or place. */
export const selectMoves = createSelector(planFeature.selectEarlier, setFeature.selectSet, (earlier, set) =>
  set?.keepsEarlier ? 0 : movesIn(earlier, set?.copies === 'go'),
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
    const { id, title, presetIds, houseRulesId, rights, place, once, remake, keepsEarlier, copies } = set;
    const versions = presets.flatMap((preset) => (presetIds.includes(preset.id) ? [[preset.id, preset.version]] : []));
    const files = { remake, keepsEarlier, copies };
    return JSON.stringify({ id, title, presetIds, houseRulesId, rights, place, once, files, versions, saving });
  },
);

/** Whether the plan is one of what is chosen now: figures of another say nothing about it. */
export const selectIsPlanned = createSelector(
  planFeature.selectBasis,
  selectBasis,
  planFeature.selectRunIsKnown,
  presetsFeature.selectLoaded,
  (plannedFrom, basis, runIsKnown, presetsLoaded) => basis !== null && plannedFrom === basis && runIsKnown && presetsLoaded,
);
