/** Letters at the end of a file name that are never cut: its number, and what kind of file it is. */
const KEPT = 12;

/** A file name as a start, which gives way where there is no room, and an end, which stays. */
export const cutName = (fileName: string): { start: string; end: string } => {
  const at = Math.max(0, fileName.length - KEPT);
  return { start: fileName.slice(0, at), end: fileName.slice(at) };
};
