import { expect, it } from 'vitest';
import { commandFor } from './keys';

const press = (key: string, held: Partial<Record<'ctrlKey' | 'metaKey' | 'altKey' | 'shiftKey', boolean>> = {}) =>
  commandFor({ ctrlKey: false, metaKey: false, altKey: false, shiftKey: false, ...held, key } as KeyboardEvent);

it('keys of the contact sheet mean what its sheet of keys says, and no other key is taken from the browser', () => {
  expect(press('3')).toEqual({ do: 'mark', change: { kind: 'stars', stars: 3 } });
  expect(press('ArrowDown', { shiftKey: true })).toEqual({ do: 'move', key: 'ArrowDown', extend: true });
  expect(press('ArrowLeft', { altKey: true })).toEqual({ do: 'carry', key: 'ArrowLeft' });
  expect([press('z', { ctrlKey: true }), press('Z', { metaKey: true, shiftKey: true }), press('y', { ctrlKey: true })]).toEqual([
    { do: 'undo' },
    { do: 'redo' },
    { do: 'redo' },
  ]);
  expect(press('+')).toEqual({ do: 'toggle-choice', choice: 'pick' });
  expect(press('T')).toEqual({ do: 'tag' });
  expect([press('t', { ctrlKey: true }), press('3', { altKey: true }), press('5', { ctrlKey: true }), press('F5')]).toEqual([
    null,
    null,
    null,
    null,
  ]);
});

it('letters, digits and signs can be switched off, and nothing else with them', () => {
  const off = (key: string, held: object = {}) =>
    commandFor({ ctrlKey: false, metaKey: false, altKey: false, shiftKey: false, ...held, key } as KeyboardEvent, false);
  expect(['3', '+', '-', 't', 'a', 'i', '?'].map((key) => off(key))).toEqual(Array.from({ length: 7 }, () => null));
  expect([off('ArrowDown'), off('Enter'), off(' '), off('Delete'), off('Escape'), off('z', { ctrlKey: true })]).not.toContain(null);
});
