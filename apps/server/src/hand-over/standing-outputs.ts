import type { OutputFileState } from '@rundle/core';
import { lookAt, type NewestOutput, newestOutputs } from '@rundle/store';
import type { Stores } from '../services';

/** An output that is out, with what has become of its file. */
export interface StandingOutput extends NewestOutput {
  file: OutputFileState;
}

/** The outputs of a set that are out, as their files lie on the disk now. To be asked of a thread: files whose mark is another are read. */
export async function standingOutputs({ database, files }: Stores, setId: string): Promise<StandingOutput[]> {
  const rows = await newestOutputs(database, setId);
  const states = await lookAt(
    database.sequelize,
    files.outputs,
    rows.filter(({ isMoving }) => !isMoving),
  );
  return rows.map((row) => Object.assign(row, { file: row.isMoving ? ('moving' as const) : states.get(row.id)! }));
}

/** Those that can be handed over: as they were made. */
export const asMade = (outputs: readonly StandingOutput[]): StandingOutput[] => outputs.filter(({ file }) => file === 'stands');
