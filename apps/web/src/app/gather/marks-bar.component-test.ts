import { provideZonelessChangeDetection } from '@angular/core';
import { type ComponentFixture, TestBed } from '@angular/core/testing';
import type { MarkChange, Master } from '@rundle/core';
import { CheckOutline, CloseOutline, MinusOutline } from '@ant-design/icons-angular/icons';
import { provideNzIcons } from 'ng-zorro-antd/icon';
import { beforeEach, describe, expect, it } from 'vitest';
import { master } from '../set/sample-master';
import { MarksBar } from './marks-bar';

let fixture: ComponentFixture<MarksBar>;
let marked: MarkChange[];
let done: number;

beforeEach(() => {
  TestBed.configureTestingModule({
    providers: [provideZonelessChangeDetection(), provideNzIcons([CheckOutline, CloseOutline, MinusOutline])],
  });
  fixture = TestBed.createComponent(MarksBar);
  [marked, done] = [[], 0];
  fixture.componentInstance.mark.subscribe((change) => marked.push(change));
  fixture.componentInstance.done.subscribe(() => done++);
});

const show = async (...masters: Master[]) => {
  fixture.componentRef.setInput('masters', masters);
  fixture.componentRef.setInput('tags', ['hero', 'boats']);
  await fixture.whenStable();
};
const page = () => fixture.nativeElement as HTMLElement;
const star = (count: number) => page().querySelector<HTMLButtonElement>(`[aria-label="${count === 1 ? '1 star' : `${count} stars`}"]`)!;
const button = (words: string) => [...page().querySelectorAll('button')].find(({ textContent }) => textContent.includes(words))!;

describe('the marks of the selected pictures', () => {
  it('show the stars that all have in common, and none where they differ', async () => {
    await show(master(1, { stars: 3 }), master(2, { stars: 3 }));
    expect(star(3).getAttribute('aria-pressed')).toBe('true');
    expect(page().querySelectorAll('.lit')).toHaveLength(3);
    await show(master(1, { stars: 3 }), master(2, { stars: 4 }));
    expect(page().querySelectorAll('.lit')).toHaveLength(0);
  });

  it('are given by a press, and taken away by a second', async () => {
    await show(master(1, { stars: 3, choice: 'pick' }));
    star(4).click();
    star(3).click();
    button('Pick').click();
    button('Leave out').click();
    expect(marked).toEqual([
      { kind: 'stars', stars: 4 },
      { kind: 'stars', stars: 0 },
      { kind: 'choice', choice: null },
      { kind: 'choice', choice: 'out' },
    ]);
  });

  it('show the tags that all have, each of which can be taken off', async () => {
    await show(master(1, { tags: ['boats', 'hero'] }), master(2, { tags: ['hero'] }));
    const tags = [...page().querySelectorAll('.tag')];
    expect(tags.map(({ textContent }) => textContent.trim())).toEqual(['hero']);
    (tags[0] as HTMLButtonElement).click();
    expect(marked).toEqual([{ kind: 'tag', tag: 'hero', on: false }]);
  });

  it('take a tag that is typed, without the spaces around it, and give the hand back; an empty one is none', async () => {
    await show(master(1));
    const field = page().querySelector('input')!;
    for (const text of ['  harbour ', '  ']) {
      field.value = text;
      field.dispatchEvent(new KeyboardEvent('keydown', { key: 'Enter' }));
    }
    expect(marked).toEqual([{ kind: 'tag', tag: 'harbour', on: true }]);
    expect([field.value, done]).toEqual(['', 2]);
  });
});
