import { provideZonelessChangeDetection } from '@angular/core';
import { type ComponentFixture, TestBed } from '@angular/core/testing';
import { type FieldPath, Preset } from '@rundle/core';
import { beforeEach, describe, expect, it } from 'vitest';
import { ValueInPlace } from './value-in-place';

const preset = Preset.parse({ kind: 'rundle.preset', version: 1, title: 'X', applies: { tags: ['hero'] }, mark: { watermark: 'w' } });

let fixture: ComponentFixture<ValueInPlace>;
let changes: unknown[];

beforeEach(() => {
  TestBed.configureTestingModule({ providers: [provideZonelessChangeDetection()] });
  fixture = TestBed.createComponent(ValueInPlace);
  document.body.append(fixture.nativeElement as HTMLElement);
  changes = [];
  fixture.componentInstance.changed.subscribe((value) => changes.push(value));
});

const page = () => fixture.nativeElement as HTMLElement;
const field = () => page().querySelector('input')!;
async function open(path: FieldPath, text: string): Promise<void> {
  fixture.componentRef.setInput('preset', preset);
  fixture.componentRef.setInput('field', path);
  fixture.componentRef.setInput('text', text);
  await fixture.whenStable();
  page().querySelector('button')!.click();
  await fixture.whenStable();
}
async function press(key: string): Promise<void> {
  field().dispatchEvent(new KeyboardEvent('keydown', { key, bubbles: true }));
  await fixture.whenStable();
}

describe('a value in a sentence', () => {
  it('is a button whose name says the field and what is seen, and becomes a field with that name', async () => {
    fixture.componentRef.setInput('preset', preset);
    fixture.componentRef.setInput('field', 'size.px');
    fixture.componentRef.setInput('text', '2048');
    await fixture.whenStable();
    expect(page().querySelector('button')?.getAttribute('aria-label')).toBe('Edge length: 2048');
    page().querySelector('button')!.click();
    await fixture.whenStable();
    expect([field().getAttribute('aria-label'), field().value, document.activeElement]).toEqual(['Edge length', '2048', field()]);
  });

  it('takes any number with Enter, once, and gives the focus back', async () => {
    await open('size.px', '2048');
    field().value = '1937';
    await press('Enter');
    expect(changes).toEqual([1937]);
    expect(document.activeElement).toBe(page().querySelector('button'));
  });

  it('speaks of a share in per cent, and of a weight in KB', async () => {
    await open('mark.opacity', '60 %');
    expect([field().value, field().min, field().max]).toEqual(['60', '0', '100']);
    field().value = '35';
    await press('Enter');
    expect(changes).toEqual([0.35]);
  });

  it('stays as it was with Escape, when nothing was typed, and when what was typed is no number', async () => {
    for (const [typed, key] of [
      ['1000', 'Escape'],
      ['2048', 'Enter'],
      ['', 'Enter'],
    ] as const) {
      await open('size.px', '2048');
      field().value = typed;
      await press(key);
      expect(page().querySelector('button')).not.toBeNull();
    }
    expect(changes).toEqual([]);
  });

  it('is followed while it is slid or stepped, not while it is typed; Escape brings back what stood there', async () => {
    await open('mark.opacity', '60 %');
    const move = async (input: HTMLInputElement, value: string, event: Event) => {
      input.value = value;
      input.dispatchEvent(event);
      fixture.componentRef.setInput('preset', { ...preset, mark: { ...preset.mark, opacity: changes.at(-1) ?? 0.6 } });
      await fixture.whenStable();
    };
    await move(field(), '6', new InputEvent('input', { inputType: 'insertText' }));
    expect(changes).toEqual([]);
    await move(field(), '61', new Event('input'));
    const slider = page().querySelector<HTMLInputElement>('input[type=range]')!;
    await move(slider, '75', new InputEvent('input'));
    expect(changes).toEqual([0.61, 0.75]);
    await press('Escape');
    expect(changes).toEqual([0.61, 0.75, 0.6]);
    // So many pixels could not be slid to one by one.
    await open('size.px', '2048');
    expect(page().querySelector('input[type=range]')).toBeNull();
  });

  it('with two choices changes at a press; several words are split at commas, each once', async () => {
    await open('size.enlarge', 'never enlarged');
    expect(changes).toEqual([true]);
    await open('applies.tags', 'tagged hero');
    field().value = ' hero, boats ,, hero';
    await press('Enter');
    expect(changes.at(-1)).toEqual(['hero', 'boats']);
  });
});
