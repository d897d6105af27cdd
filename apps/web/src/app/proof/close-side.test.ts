import '@angular/compiler';
import type { DestroyRef } from '@angular/core';
import { Preset, type SampleFacts } from '@rundle/core';
import { Subject } from 'rxjs';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import type { SampleAnswer, SampleApi, SampleQuestion } from '../api/sample';
import { CloseSide, type SideWish } from './close-side';

const preset = Preset.parse({ kind: 'rundle.preset', version: 1, title: 'Web' });
const wish = (x: number): SideWish => ({
  masterId: 'm',
  decided: '',
  preset,
  upTo: 'file',
  view: { kind: 'part', x, y: 0.5, size: { width: 10, height: 10 } },
  overlay: null,
});

/** Decoding that ends when the test says so, in the order in which it was begun. */
let decoding: (() => void)[];
let revoked: string[];
let asked: { question: SampleQuestion; answer: Subject<SampleAnswer> }[];
let destroy: () => void;

beforeEach(() => {
  vi.useFakeTimers();
  [decoding, revoked, asked, destroy] = [[], [], [], () => {}];
  let urls = 0;
  vi.stubGlobal(
    'Image',
    class {
      src = '';
      decode = () => new Promise<void>((resolve) => decoding.push(resolve));
    },
  );
  vi.stubGlobal('URL', { createObjectURL: () => `blob:${++urls}`, revokeObjectURL: (url: string) => revoked.push(url) });
});
afterEach(() => {
  vi.useRealTimers();
  vi.unstubAllGlobals();
});

const side = () => {
  const ask = (question: SampleQuestion) => {
    const answer = new Subject<SampleAnswer>();
    asked.push({ question, answer });
    return answer;
  };
  return new CloseSide({ ask } as unknown as SampleApi, { onDestroy: (end: () => void) => (destroy = end) } as unknown as DestroyRef);
};
async function answer(at: number, expected: SampleFacts['expected'] = []): Promise<void> {
  asked[at]!.answer.next({ facts: { expected } as unknown as SampleFacts, picture: new Blob() });
  asked[at]!.answer.complete();
  await vi.advanceTimersByTimeAsync(0);
}
async function want(one: CloseSide, x: number): Promise<void> {
  one.want(wish(x));
  await vi.advanceTimersByTimeAsync(50);
}
async function decoded(at: number): Promise<void> {
  decoding[at]!();
  await vi.advanceTimersByTimeAsync(0);
}

describe('a side of a close look', () => {
  it('never shows a picture that was decoded late in the place of the one that is wanted', async () => {
    const one = side();
    await want(one, 0.1);
    await answer(0);
    await want(one, 0.2);
    await answer(1);
    await decoded(1);
    expect(one.shown()?.wish.view.x).toBe(0.2);
    await decoded(0);
    expect(one.shown()?.wish.view.x).toBe(0.2);
    expect(revoked).toEqual(['blob:1']);
  });

  it('is what is wanted only once its own picture is there, and an elsewhere of it meanwhile', async () => {
    const one = side();
    await want(one, 0.1);
    expect(one.match()).toBe('other');
    await answer(0);
    await decoded(0);
    expect(one.match()).toBe('wanted');
    one.want(wish(0.3));
    expect(one.match()).toBe('elsewhere');
    one.want({ ...wish(0.3), masterId: 'next' });
    expect(one.match()).toBe('other');
    await vi.advanceTimersByTimeAsync(50);
    await answer(1);
    expect(one.match()).toBe('other');
    await decoded(1);
    expect(one.match()).toBe('wanted');
  });

  it('is asked for once out of the whole file where it could only be expected, and not where it is true', async () => {
    const one = side();
    await want(one, 0.1);
    await answer(0, ['blocks']);
    await decoded(0);
    expect(asked.map(({ question }) => question.finished)).toEqual([false, true]);
    await answer(1);
    await decoded(1);
    expect(one.shown()?.facts.expected).toEqual([]);
    await want(one, 0.3);
    await answer(2);
    await decoded(2);
    expect(asked).toHaveLength(3);
  });

  it('asks for the last of many places only, keeps nothing once it is gone, and says why there is none', async () => {
    const one = side();
    for (const x of [0.1, 0.2, 0.3]) one.want(wish(x));
    await vi.advanceTimersByTimeAsync(50);
    expect(asked.map(({ question }) => (question.view as SideWish['view']).x)).toEqual([0.3]);
    asked[0]!.answer.error(new Error('gone'));
    await vi.advanceTimersByTimeAsync(0);
    expect(one.problem()).not.toBeNull();
    await want(one, 0.4);
    await answer(1);
    destroy();
    await decoded(0);
    expect(one.shown()).toBeNull();
    expect(revoked).toEqual(['blob:1']);
  });
});
