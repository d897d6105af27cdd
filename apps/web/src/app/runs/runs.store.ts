import { isOpenRun, type Run } from '@rundle/core';
import { createActionGroup, createFeature, createReducer, createSelector, emptyProps, on, props } from '@ngrx/store';
import { serverActions } from '../shell/server-news';

export const runsActions = createActionGroup({
  source: 'Runs',
  events: {
    /** The page has begun, or the connection is back. */
    Wanted: emptyProps(),
    Loaded: props<{ runs: Run[] }>(),
    'End put away': props<{ runId: string }>(),
    'Move pressed': props<{ runId: string; before: string | null }>(),
  },
});

interface State {
  runs: readonly Run[];
  loaded: boolean;
  /** Runs that have ended while this page looked on, newest first, until they are put away. */
  ended: readonly string[];
}

const initial: State = { runs: [], loaded: false, ended: [] };

export const runsFeature = createFeature({
  name: 'runs',
  reducer: createReducer(
    initial,
    on(runsActions.loaded, (state, { runs }): State => ({ ...state, runs, loaded: true })),
    on(serverActions.runChanged, (state, { run }): State => {
      const before = state.runs.find(({ id }) => id === run.id);
      const hasEnded = before !== undefined && isOpenRun(before) && !isOpenRun(run);
      const ended = hasEnded ? [run.id, ...state.ended] : state.ended;
      return { ...state, ended, runs: before ? state.runs.map((one) => (one.id === run.id ? run : one)) : [run, ...state.runs] };
    }),
    on(runsActions.endPutAway, (state, { runId }): State => ({ ...state, ended: state.ended.filter((id) => id !== runId) })),
  ),
  extraSelectors: ({ selectRuns, selectEnded }) => ({
    /** In the order in which they are worked through. */
    selectOpen: createSelector(selectRuns, (runs) => runs.filter(isOpenRun).toSorted((a, b) => a.line - b.line)),
    /** How many runs go before one, by its id: what is paused stands still, and lets the next go first. */
    selectAhead: createSelector(selectRuns, (runs): ReadonlyMap<string, number> => {
      const open = runs.filter(isOpenRun);
      const before = ({ line }: Run) => open.filter((other) => other.line < line && other.state === 'running').length;
      return new Map(open.map((run) => [run.id, before(run)]));
    }),
    selectPast: createSelector(selectRuns, (runs) =>
      runs.filter((run) => !isOpenRun(run)).toSorted((a, b) => b.startedAt.localeCompare(a.startedAt)),
    ),
    /** The last one that has ended here and has not been put away. */
    selectJustEnded: createSelector(selectRuns, selectEnded, (runs, ended) => runs.find(({ id }) => id === ended[0]) ?? null),
  }),
});
