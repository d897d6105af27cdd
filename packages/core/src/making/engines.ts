/** Raised whenever the same master and preset would give another file than before; what differs is said in {@link ENGINE_CHANGES}. */
export const ENGINE = 7;

/** The first engine whose recipes are written as those of today, so that what it made can be held against them. */
export const COMPARABLE_FROM = 6;

/** What each engine makes differently from the one before it, in words for photographers. */
export const ENGINE_CHANGES: Readonly<Record<number, string>> = {
  7: 'A creator’s own contact details stay beside those that are filled in.',
};

/** What has changed since an engine, the latest last. @param engine its number */
export const changesSinceEngine = (engine: number): string[] =>
  Object.entries(ENGINE_CHANGES)
    .filter(([number]) => Number(number) > engine)
    .map(([, words]) => words);
