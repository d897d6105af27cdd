import type { SampleFacts } from '@rundle/core';

/** @example "2.1 % of what is shown: highlights clipped in at least one channel; in the master itself 1.9 %." */
export function spotsInWords({ spots, ownSpots }: Pick<SampleFacts, 'spots' | 'ownSpots'>, what: string): string {
  const own = ownSpots ? `; in the master itself ${percentOf(ownSpots)}` : '';
  return spots ? `${percentOf(spots)} of what is shown: ${what}${own}.` : `No ${what} here${own}.`;
}

/** @example "2.1 %" */
export const percentOf = (share: number): string => (share < 0.001 ? 'less than 0.1 %' : `${Math.round(share * 1000) / 10} %`);
