import { expect, it } from 'vitest';
import { dragging } from './dragging';

/** A pointer event on something that can be taken hold of. */
const pointer = (type: string, x: number, y: number) =>
  Object.assign(new Event(type), { clientX: x, clientY: y, pointerId: 1 }) as PointerEvent;

function hold() {
  const target = Object.assign(new EventTarget(), { setPointerCapture: () => {} });
  const told: unknown[] = [];
  target.addEventListener('pointerdown', (event) =>
    dragging(
      event as PointerEvent,
      (dx, dy) => told.push([dx, dy]),
      () => told.push('end'),
    ),
  );
  target.dispatchEvent(pointer('pointerdown', 100, 50));
  return { target, told };
}

it('a press that goes nowhere moves nothing: it is no decision', () => {
  const { target, told } = hold();
  target.dispatchEvent(pointer('pointerup', 100, 50));
  expect(told).toEqual(['end']);
});

it('a drag so quick that only its end is told has moved all the way', () => {
  const { target, told } = hold();
  target.dispatchEvent(pointer('pointerup', 130, 40));
  target.dispatchEvent(pointer('pointermove', 300, 300));
  expect(told).toEqual([[30, -10], 'end']);
});

it('what the browser takes away ends where it was seen last', () => {
  const { target, told } = hold();
  target.dispatchEvent(pointer('pointermove', 110, 50));
  target.dispatchEvent(pointer('pointercancel', 0, 0));
  expect(told).toEqual([[10, 0], 'end']);
});
