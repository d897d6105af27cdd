import { ALL_PICTURES, type Glance, type Master, NO_DECISIONS, type SetDetail, StudioDetails } from '@rundle/core';

const FACTS: Glance = {
  format: 'jpeg',
  width: 6000,
  height: 4000,
  orientation: 1,
  bits: 8,
  colourModel: 'rgb',
  alpha: false,
  pages: 1,
  profile: 'sRGB',
  sRgb: true,
  captured: null,
  salience: null,
  gps: false,
  keywords: [],
};

/** A master for tests that has been read: `m3` is `3.jpg`, the fourth of its set. */
export const master = (n: number, more: Partial<Extract<Master, { state: 'ready' }>> = {}): Master => ({
  id: `m${n}`,
  fileName: `${n}.jpg`,
  position: n,
  bytes: 100 * n,
  state: 'ready',
  facts: FACTS,
  codes: [],
  problem: null,
  stars: 0,
  choice: null,
  tags: [],
  overrides: NO_DECISIONS,
  revision: 0,
  content: `c${n}`,
  ...more,
});

/** One that has not been read yet. */
export const arrivingMaster = (n: number): Master => ({ ...master(n), state: 'arriving', facts: null, content: null, problem: null });

/** A set for tests. */
export const sampleSet = (more: Partial<SetDetail> = {}): SetDetail => ({
  id: 's',
  title: 'Lanterns',
  createdAt: '2026-06-20T21:40:00Z',
  pictures: 2,
  bytes: 300,
  outputs: 0,
  running: false,
  shelf: 'work',
  covers: [],
  filter: ALL_PICTURES,
  presetIds: [],
  houseRulesId: null,
  rights: StudioDetails.parse({}),
  place: { kind: 'own' },
  once: {},
  secondLooks: [],
  remake: false,
  keepsEarlier: false,
  copies: null,
  revision: 0,
  ...more,
});
