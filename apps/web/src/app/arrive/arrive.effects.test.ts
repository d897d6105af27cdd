import '@angular/compiler';
import { Actions } from '@ngrx/effects';
import type { Action } from '@ngrx/store';
import { NEVER, Subject } from 'rxjs';
import { expect, it, vi } from 'vitest';
import { sendFiles } from './arrive.effects';
import { arriveActions } from './arrive.store';
import { sendFile } from './send-file';

// The places that pages share are tried in a browser.
vi.mock('./in-turn', () => ({ inTurn: <T>(_places: number, work: T) => work }));
vi.mock('./send-file', () => ({ sendFile: vi.fn(() => NEVER) }));

const lot = (count: number, at: number) =>
  arriveActions.begun({ setId: 's', files: Array.from({ length: count }, (_, index) => new File(['x'], `${at}-${index}.jpg`)), at });

it('Stop ends what is being sent, forgets the rest, and lets the next lot begin', () => {
  const actions = new Subject<Action>();
  const begun: string[] = [];
  sendFiles(new Actions(actions)).subscribe((action) => {
    if (action.type === arriveActions.uploadBegun.type)
      begun.push((action as ReturnType<typeof arriveActions.uploadBegun>).upload.fileName);
  });
  actions.next(lot(10, 1000));
  expect(begun).toEqual(['1000-0.jpg', '1000-1.jpg']);
  actions.next(arriveActions.stopPressed());
  expect(begun).toHaveLength(2);
  actions.next(lot(2, 2000));
  expect(begun.slice(2)).toEqual(['2000-0.jpg', '2000-1.jpg']);
  // What puts them in order rises within a lot, and from one lot to the next.
  const arrivals = vi.mocked(sendFile).mock.calls.map(([, , arrival]) => arrival);
  expect(arrivals).toEqual(arrivals.toSorted((a, b) => a - b));
  expect(new Set(arrivals).size).toBe(4);
});
