/**
 * Follows a pointer that was pressed on an element until it is let go.
 * @param event the press
 * @param move told how far it is from where it was pressed, CSS px
 * @param end told when it is let go, or when the browser takes the pointer away
 */
export function dragging(event: PointerEvent, move: (dx: number, dy: number) => void, end: () => void = () => {}): void {
  const target = event.currentTarget as HTMLElement;
  target.setPointerCapture(event.pointerId);
  const moved = ({ clientX, clientY }: PointerEvent) => move(clientX - event.clientX, clientY - event.clientY);
  const ended = (last: PointerEvent) => {
    // Of a quick drag, and on a busy machine, nothing else may have been told.
    const isElsewhere = last.clientX !== event.clientX || last.clientY !== event.clientY;
    if (last.type === 'pointerup' && isElsewhere) moved(last);
    target.removeEventListener('pointermove', moved);
    target.removeEventListener('pointerup', ended);
    target.removeEventListener('pointercancel', ended);
    end();
  };
  target.addEventListener('pointermove', moved);
  target.addEventListener('pointerup', ended);
  target.addEventListener('pointercancel', ended);
}
