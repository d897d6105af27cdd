import { ProblemError } from './problem';

/** What a disk says when it refuses a file, by the system's code (POSIX.1-2017, errno.h), and what to do. */
const REASONS: Record<string, string> = {
  ENOSPC: 'the disk is full. Make room, then run again',
  EDQUOT: 'the disk quota is used up. Make room, then run again',
  EACCES: 'writing to the folder is not allowed. Allow it, or choose another folder',
  EPERM: 'writing to the folder is not allowed. Allow it, or choose another folder',
  EROFS: 'the disk is read-only. Choose another folder',
  ENOENT: 'the target folder has vanished. Make it again, then run again',
  ENOTDIR: 'a file stands where a folder should be. Move it away, or choose another folder',
  EIO: 'the disk does not answer as it should. Check it, then run again',
};

/**
 * An error of writing a file, as a problem where it is one that a person can do something about; else the error as it was.
 * @param file name of the file, for the sentence
 */
export function writeProblem(error: unknown, file: string): unknown {
  if (error instanceof ProblemError) return error;
  const code = error instanceof Error && 'code' in error ? String(error.code) : '';
  if (code === 'EEXIST')
    return new ProblemError({
      code: 'exists',
      file,
      message: `${file} appeared in the folder while the run was under way and was left untouched. Run again.`,
    });
  const reason = REASONS[code];
  return reason ? new ProblemError({ code: 'not-written', file, message: `${file} was not written: ${reason}.` }) : error;
}
