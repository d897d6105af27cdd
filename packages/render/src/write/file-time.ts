import { stat } from 'node:fs/promises';
import type { Preset } from '@rundle/core';

/**
 * The time that a finished file shall have, or null to leave it as it is.
 * @param master path of the master
 * @param captured ISO 8601 with or without an offset; without, the clock of this machine is meant
 */
export async function fileTime(choice: Preset['metadata']['fileTime'], master: string, captured: string | null): Promise<Date | null> {
  if (choice === 'master') return (await stat(master)).mtime;
  return choice === 'capture' && captured ? new Date(captured) : null;
}
