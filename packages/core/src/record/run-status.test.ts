import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { type CountedOutput, endSentence, reviewSentence, runCounts, runStatus } from './run-status';

const file = (state: CountedOutput['state'], more: Partial<CountedOutput> = {}): CountedOutput => ({
  masterId: 'm',
  master: 'LFS_0412.jpg',
  state,
  bytes: state === 'done' ? 1000 : null,
  remarks: [],
  error: state === 'failed' ? { message: 'The disk is full.' } : null,
  ...more,
});
const files = (count: number, state: CountedOutput['state']) => Array.from({ length: count }, () => file(state));
const told = (
  outputs: CountedOutput[],
  ahead = 0,
  more: { state?: 'running' | 'paused' | 'done' | 'cancelled'; stopping?: boolean } = {},
) => runStatus({ state: 'running', stopping: false, counts: runCounts(outputs), ...more }, ahead);

describe('a run that is open', () => {
  it('is not running while others go first, nor before anything has been begun', () => {
    expect(told(files(10, 'planned'), 1)).toMatchObject({ stage: 'waiting', words: 'waits for its turn' });
    expect(told([...files(2, 'done'), ...files(8, 'planned')], 1).words).toBe('2 of 10, waits for its turn');
    expect(told(files(10, 'planned'))).toMatchObject({ stage: 'beginning', words: '10 files, not begun yet' });
    expect(told([file('running'), ...files(9, 'planned')], 1)).toMatchObject({ stage: 'running', words: '0 of 10' });
  });

  it('counts what it has to make, as the button did, and not what was up to date', () => {
    expect(told([...files(2, 'skipped'), file('failed'), file('running'), ...files(18, 'planned')]).words).toBe('1 of 20, 1 failed');
  });

  it('is paused or stopped in words', () => {
    expect(told([file('done'), file('planned')], 0, { state: 'paused' })).toMatchObject({ stage: 'paused', words: '1 of 2, paused' });
    expect(told([file('done'), file('running')], 0, { stopping: true }).stage).toBe('stopping');
  });

  it('has never made more than there was to make, whatever its files are', () => {
    const states = fc.constantFrom<CountedOutput['state'][]>('planned', 'running', 'done', 'failed', 'skipped', 'cancelled');
    fc.assert(
      fc.property(fc.array(states), fc.nat(3), (all, ahead) => {
        const { past, of, share, stage } = told(
          all.map((state) => file(state)),
          ahead,
        );
        expect(past).toBeLessThanOrEqual(of);
        expect(share).toBeLessThanOrEqual(1);
        if (stage === 'waiting' || stage === 'beginning') expect(all).not.toContain('running');
      }),
    );
  });
});

describe('the end of a run', () => {
  const end = (outputs: CountedOutput[]) => endSentence(runCounts(outputs));

  it('is a sentence that can be relied on', () => {
    expect(end(files(48, 'done'))).toBe('48 of 48 done, all checked, no errors');
    expect(end([...files(5, 'done'), ...files(43, 'skipped')])).toBe('5 of 5 done, all checked, no errors; 43 were up to date');
    expect(end([...files(40, 'done'), ...files(8, 'cancelled')])).toBe('40 done, 8 cancelled');
    expect(end(files(48, 'skipped'))).toBe('All 48 files were up to date');
  });

  it('names what failed, and says when that is no longer there', () => {
    const lost = { isRemoved: true, master: 'LFS_0400.jpg' };
    expect(end([file('done'), file('failed'), file('failed', { master: 'LFS_0415.jpg' })])).toBe(
      '1 done, 2 failed: LFS_0412.jpg, LFS_0415.jpg. The disk is full.',
    );
    expect(end([...files(3, 'done'), ...files(5, 'failed')])).toBe('3 done, 5 failed: LFS_0412.jpg and others. The disk is full.');
    expect(end([file('done'), file('failed', lost)])).toBe('1 done, 1 failed, no longer in the set: LFS_0400.jpg');
    expect(end([file('failed', lost), file('failed')])).toBe(
      '0 done, 2 failed: LFS_0412.jpg, LFS_0400.jpg (1 no longer in the set). The disk is full.',
    );
    // What was up to date is not what failed.
    expect(end([file('done'), file('skipped'), file('failed')])).toBe(
      '1 done; 1 was up to date; 1 failed: LFS_0412.jpg. The disk is full.',
    );
    expect(told([file('failed', lost)], 0, { state: 'done' }).failed).toBe(0);
  });

  it('tells what is over its ceiling, also where all else is well', () => {
    const over = { remarks: [{ code: 'over-ceiling' }] };
    expect(end([...files(12, 'done'), file('done', over), file('done', over)])).toBe(
      '14 of 14 done, all checked, no errors; 2 over their ceiling, as the preset allows',
    );
  });

  it('lets nobody say "no errors" while something is being made, or has failed', () => {
    const review = (outputs: CountedOutput[], state: 'running' | 'done') => reviewSentence(30, 1e6, 9e6, 0, told(outputs, 0, { state }));
    expect(review(files(3, 'done'), 'done')).toBe('30 files, 1.0 MB from 9.0 MB, all re-opened and checked, no errors');
    expect(review([file('failed'), file('planned')], 'running')).not.toContain('no errors');
    expect(review([file('done'), file('running')], 'running')).not.toContain('no errors');
    expect(review([file('done'), file('failed')], 'done')).not.toContain('no errors');
  });
});
