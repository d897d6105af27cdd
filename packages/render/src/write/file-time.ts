import type { Preset } from '@rundle/core';

/**
 * The time that a finished file shall have, or null to leave it as it is.
 * @param modified the master file's own time
 * @param captured ISO 8601 with or without an offset; without, the clock of this machine is meant
 */
export function fileTime(choice: Preset['metadata']['fileTime'], modified: Date, captured: string | null): Date | null {
  if (choice === 'master') return modified;
  return choice === 'capture' && captured ? new Date(captured) : null;
}
