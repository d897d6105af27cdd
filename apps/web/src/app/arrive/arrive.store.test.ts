import '@angular/compiler';
import type { Action } from '@ngrx/store';
import { describe, expect, it } from 'vitest';
import { arriveActions, arriveFeature } from './arrive.store';
import { pickedFiles } from './dropped-files';

const file = (name: string, bytes: number, path = ''): File =>
  Object.defineProperty(new File([new Uint8Array(bytes)], name), 'webkitRelativePath', { value: path });
const after = (...actions: Action[]) =>
  actions.reduce<ReturnType<typeof arriveFeature.reducer> | undefined>((state, action) => arriveFeature.reducer(state, action), undefined)!;
const progress = (state: ReturnType<typeof after>) => arriveFeature.selectProgress({ arrive: state });

describe('arrivals', () => {
  it('count files and bytes of all that is on its way, and forget them when the last is in', () => {
    const begun = arriveActions.begun({ setId: 's', files: [file('a.jpg', 10), file('b.jpg', 30)], at: 1000 });
    const first = arriveActions.uploadBegun({ upload: { id: 'u', fileName: 'a.jpg', bytes: 10, sent: 0 } });
    const going = after(begun, first, arriveActions.uploadWentOn({ id: 'u', sent: 7 }));
    expect(progress(going)).toEqual({ files: 2, bytes: 40, doneFiles: 0, sent: 7, since: 1000 });
    const one = arriveFeature.reducer(going, arriveActions.uploadEnded({ id: 'u', bytes: 10, twins: [], refused: [] }));
    expect(progress(one)).toMatchObject({ doneFiles: 1, sent: 10 });
    const problem = { code: 'empty', file: 'b.jpg', message: 'The file is empty.' } as const;
    const all = arriveFeature.reducer(one, arriveActions.uploadEnded({ id: 'v', bytes: 30, twins: [], refused: [problem] }));
    expect([progress(all), all.refused]).toEqual([null, [problem]]);
    expect(arriveFeature.reducer(all, arriveActions.refusalsPutAway()).refused).toEqual([]);
  });

  it('come in natural order, ask about sub-folders, and leave aside what systems put into folders', () => {
    const found = pickedFiles([
      file('a 10.jpg', 1, 'top/a 10.jpg'),
      file('a 9.jpg', 1, 'top/a 9.jpg'),
      file('.DS_Store', 1, 'top/.DS_Store'),
      file('b.jpg', 1, 'top/deep/b.jpg'),
      file('c.jpg', 1),
    ]);
    expect(found.map(({ file: { name }, depth }) => [name, depth])).toEqual([
      ['c.jpg', 0],
      ['a 9.jpg', 0],
      ['a 10.jpg', 0],
      ['b.jpg', 1],
    ]);
    const asked = after(arriveActions.dropped({ setId: 's', files: found }));
    expect(asked.deeper.map(({ name }) => name)).toEqual(['b.jpg']);
    expect(arriveFeature.reducer(asked, arriveActions.deeperAnswered({ setId: 's', files: asked.deeper, bring: false })).deeper).toEqual(
      [],
    );
  });
});
