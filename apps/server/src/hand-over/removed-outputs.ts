import { joinPath, type RemovedOutputs } from '@rundle/core';
import type { Stores } from '../services';
import { removableOutputs, type RemovableOutput, removeFiles, weighed } from './removable-outputs';

/** Files that are named as examples. */
const EXAMPLES = 3;

/** What still lies on the disk, as it was made, of pictures that were taken out of a set. To be asked of a thread. */
export async function removedOutputs(stores: Stores, setId: string): Promise<RemovedOutputs> {
  return inWords(await removableOutputs(stores, { setId, onlyRemoved: true }));
}

/**
 * Takes these files away; what somebody has changed stays.
 * @returns what is taken away, a moment later, by a worker
 * @throws HttpProblem 409 while a run or a delivery of the set is under way
 */
export async function takeAwayRemoved(stores: Stores, setId: string): Promise<RemovedOutputs> {
  const rows = await removableOutputs(stores, { setId, onlyRemoved: true });
  await stores.database.sequelize.transaction((transaction) => removeFiles(stores, setId, rows, transaction));
  return inWords(rows);
}

const inWords = (rows: readonly RemovableOutput[]): RemovedOutputs => ({
  ...weighed(rows),
  pictures: new Set(rows.map(({ masterId }) => masterId)).size,
  examples: rows.slice(0, EXAMPLES).map(({ folder, fileName }) => joinPath(folder, fileName)),
});
