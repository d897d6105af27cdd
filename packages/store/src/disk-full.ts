/** What the system says when there is no room (POSIX.1-2017, errno.h), and PostgreSQL (its manual, appendix A: 53100 disk_full). */
const FULL = new Set(['ENOSPC', 'EDQUOT', '53100']);

/** Whether an error means that a disk has no room left, that of the files or that of the database. */
export function isDiskFull(error: unknown): boolean {
  for (let at = error; at instanceof Error; at = 'parent' in at && at.parent !== at ? at.parent : at.cause)
    if ('code' in at && FULL.has(String(at.code))) return true;
  return false;
}
