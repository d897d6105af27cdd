/** How long a row that was scrolled to is waited for, in frames. */
const FRAMES = 10;

/** Gives the focus to an element by its id: one that is scrolled to is made in one of the next frames. */
export function focusOnceThere(id: string, frames = FRAMES): void {
  const element = document.getElementById(id);
  if (element) element.focus({ preventScroll: true });
  else if (frames > 0) requestAnimationFrame(() => focusOnceThere(id, frames - 1));
}
