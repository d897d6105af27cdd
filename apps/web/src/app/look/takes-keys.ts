/** Whether what has the focus takes keys itself: a field that is typed into, or a list that is open. A list that has just been closed does not. */
export const takesKeys = (target: EventTarget | null): boolean =>
  target instanceof Element && target.closest('input:not([readonly]), textarea, [contenteditable], .ant-select-open') !== null;
