/** Where it is kept that the browser shall tell of the end of runs; each browser decides for itself. */
const KEY = 'rundle.notices';

/** Whether whoever works in this browser wants to be told of the end of runs, and the browser allows it. */
export const wantsNotices = (): boolean => canNotice() && Notification.permission === 'granted' && localStorage.getItem(KEY) === 'yes';

export const canNotice = (): boolean => 'Notification' in globalThis;

/** Switches notices on or off; the browser asks before the first. @returns whether they are on now */
export async function switchNotices(on: boolean): Promise<boolean> {
  if (!on) {
    localStorage.removeItem(KEY);
    return false;
  }
  if ((await Notification.requestPermission()) !== 'granted') return false;
  localStorage.setItem(KEY, 'yes');
  return true;
}
