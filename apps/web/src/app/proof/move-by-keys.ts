/** How far an arrow key moves a picture, CSS px. */
const STEP = 80;

const WAYS: Readonly<Record<string, readonly [number, number]>> = {
  ArrowLeft: [STEP, 0],
  ArrowRight: [-STEP, 0],
  ArrowUp: [0, STEP],
  ArrowDown: [0, -STEP],
};

/** Takes an arrow key that is pressed on a picture. @param move by so many CSS px, as if it had been dragged */
export function moveByKeys(event: KeyboardEvent, move: (dx: number, dy: number) => void): void {
  const by = WAYS[event.key];
  if (!by || event.ctrlKey || event.metaKey || event.altKey) return;
  event.preventDefault();
  move(by[0], by[1]);
}
