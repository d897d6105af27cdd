import { type Master, NO_OVERRIDES } from '@rundle/core';

/** A master for tests: `m3` is `3.jpg`, the fourth of its set. */
export const master = (n: number, more: Partial<Master> = {}): Master => ({
  id: `m${n}`,
  fileName: `${n}.jpg`,
  position: n,
  bytes: 100 * n,
  state: 'ready',
  facts: null,
  codes: [],
  problem: null,
  stars: 0,
  choice: null,
  tags: [],
  overrides: NO_OVERRIDES,
  content: null,
  ...more,
});
