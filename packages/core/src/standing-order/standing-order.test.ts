import { runCounts } from '../record/run-status';
import { describe, expect, it } from 'vitest';
import { daySentence, daySetTitle, localDay } from './day';
import { fateOf, isUnchanged, isUnread, type KnownFile } from './fate';

const file = { path: '/in/p.jpg', bytes: 10, mtimeMs: 5, sha256: 'a' };
const known = (more: Partial<KnownFile> = {}): KnownFile => ({ bytes: 10, mtimeMs: 5, sha256: 'a', ...more });

describe('a file of a watched folder', () => {
  it('is taken once, by path and content', () => {
    expect(fateOf(file, [], [])).toBe('taken');
    expect(fateOf(file, [known()], [])).toBe('known');
    // Only touched: the content is the same.
    expect(fateOf({ ...file, mtimeMs: 9 }, [known()], [])).toBe('known');
    expect(fateOf({ ...file, sha256: 'b' }, [known()], [])).toBe('taken');
    // Back to what it was before.
    expect(fateOf(file, [known({ sha256: 'b' }), known()], [])).toBe('known');
  });

  it('is left where it lay there before and has not been changed since', () => {
    expect(fateOf(file, [known({ sha256: null })], [])).toBe('left');
    expect(fateOf({ ...file, bytes: 11 }, [known({ sha256: null })], [])).toBe('taken');
  });

  it('is never one that was made here, unless that is its master unchanged', () => {
    expect(fateOf(file, [], [{ path: '/out/p_900.jpg', isCopy: false }])).toBe('own');
    expect(fateOf(file, [], [{ path: '/out/p.jpg', isCopy: true }])).toBe('taken');
    expect(fateOf(file, [], [{ path: '/in/p.jpg', isCopy: true }])).toBe('own');
  });

  it('is the same picture where it was renamed or moved, and a twin beside one that is there', () => {
    expect(fateOf(file, [], [], [{ path: '/in/old.jpg', isThere: false }])).toBe('moved');
    expect(
      fateOf(
        file,
        [],
        [],
        ['/in/a.jpg', '/in/old.jpg'].map((path, at) => ({ path, isThere: at === 0 })),
      ),
    ).toBe('twin');
    expect(fateOf(file, [known()], [], [{ path: '/in/old.jpg', isThere: true }])).toBe('known');
  });

  it('need not be read again when nothing has happened to it', () => {
    expect(isUnchanged(file, [known()])).toBe(true);
    expect(isUnchanged(file, [known({ sha256: null })])).toBe(false);
    expect(isUnchanged({ ...file, mtimeMs: 6 }, [known()])).toBe(false);
    expect(isUnread(file, [known({ sha256: null })])).toBe(true);
    expect(isUnread(file, [known({ sha256: null }), known()])).toBe(false);
    expect(isUnread({ ...file, bytes: 11 }, [known({ sha256: null })])).toBe(false);
  });
});

describe('a day of a standing order', () => {
  const counts = runCounts([]);
  const day = { setId: null, taken: 0, reading: 0, unreadable: 0, refused: 0, counts };

  it('is told in one line', () => {
    expect(daySentence(day)).toBe('Nothing came today');
    expect(daySentence({ ...day, refused: 1 })).toBe('Nothing came today; 1 could not come in');
    expect(daySentence({ ...day, taken: 3, reading: 2 })).toBe('3 pictures today; 2 being read');
    expect(daySentence({ ...day, taken: 3, counts: { ...counts, total: 6, done: 4 } })).toBe('3 pictures today; 4 of 6');
    expect(daySentence({ ...day, taken: 3, counts: { ...counts, total: 6, done: 6 } })).toBe(
      '3 pictures today; 6 of 6 done, all checked, no errors',
    );
    expect(daySentence({ ...day, taken: 1, unreadable: 1 })).toBe('1 picture today; 1 cannot be read');
  });

  it('is the day where Rundle runs, and names its set', () => {
    expect(localDay(new Date(2026, 4, 4, 23, 59))).toBe('2026-05-04');
    expect(daySetTitle('Quay gallery', '2026-05-14')).toBe('Quay gallery 14 May 2026');
  });
});
