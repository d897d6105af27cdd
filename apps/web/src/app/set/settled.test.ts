import { Subject } from 'rxjs';
import { afterEach, beforeEach, expect, it, vi } from 'vitest';
import { settled } from './settled';

beforeEach(() => void vi.useFakeTimers());
afterEach(() => void vi.useRealTimers());

it('changes are followed once they have settled, and now and then while they never do', () => {
  const changes = new Subject<number>();
  const followed: [value: number, at: number][] = [];
  const begun = Date.now();
  changes.pipe(settled((value) => (value < 0 ? 3000 : 250), 3000)).subscribe((value) => followed.push([value, Date.now() - begun]));
  changes.next(1);
  vi.advanceTimersByTime(100);
  changes.next(2);
  vi.advanceTimersByTime(1000);
  expect(followed).toEqual([[2, 350]]);
  // Something comes every 100 ms from here, at 1100 ms, on.
  for (let at = 0; at < 70; at++) {
    changes.next(at);
    vi.advanceTimersByTime(100);
  }
  vi.advanceTimersByTime(1000);
  expect(followed.slice(1).map(([, at]) => at)).toEqual([4100, 7100, 8250]);
  expect(followed.at(-1)?.[0]).toBe(69);
  // Some values have others wait the longest, the next may let them through sooner.
  changes.next(-1);
  vi.advanceTimersByTime(2900);
  expect(followed).toHaveLength(4);
  changes.next(-1);
  vi.advanceTimersByTime(100);
  expect(followed).toHaveLength(5);
  changes.next(-1);
  changes.next(7);
  vi.advanceTimersByTime(250);
  expect(followed.at(-1)?.[0]).toBe(7);
});
