import '@angular/compiler';
import type { Action } from '@ngrx/store';
import { expect, it } from 'vitest';
import { sampleRun } from '../plan/sample-plan';
import { serverActions } from '../shell/server-news';
import { runsActions, runsFeature } from './runs.store';

type State = ReturnType<typeof runsFeature.reducer>;
const after = (...actions: Action[]): State =>
  actions.reduce<State | undefined>((state, action) => runsFeature.reducer(state, action), undefined)!;
const changed = (more: Parameters<typeof sampleRun>[0]) => serverActions.runChanged({ run: sampleRun(more) });
const ids = (selector: typeof runsFeature.selectOpen, state: State) => selector({ runs: state }).map(({ id }) => id);

it('the runs of all sets stand in their line, and what ends while the page looks on is told until it is put away', () => {
  const loaded = after(runsActions.loaded({ runs: [sampleRun({ id: 'a', line: 2 }), sampleRun({ id: 'b', line: 1, state: 'paused' })] }));
  expect(ids(runsFeature.selectOpen, loaded)).toEqual(['b', 'a']);
  const more = after(runsActions.loaded({ runs: loaded.runs as never }), changed({ id: 'c', line: 3 }), changed({ id: 'a', line: 0 }));
  expect(ids(runsFeature.selectOpen, more)).toEqual(['a', 'b', 'c']);
  const ended = runsFeature.reducer(more, changed({ id: 'a', state: 'done' }));
  expect(ids(runsFeature.selectOpen, ended)).toEqual(['b', 'c']);
  expect(runsFeature.selectJustEnded({ runs: ended })?.id).toBe('a');
  // What had ended before is no news.
  expect(runsFeature.selectJustEnded({ runs: runsFeature.reducer(loaded, changed({ id: 'z', state: 'done' })) })).toBeNull();
  expect(runsFeature.selectJustEnded({ runs: runsFeature.reducer(ended, runsActions.endPutAway({ runId: 'a' })) })).toBeNull();
});
