import { ProblemError } from '@rundle/core';
import { deliveredTo, type DeliveryFileRow } from '@rundle/store';
import type { Job } from '../job';
import { onRecord } from '../on-record';
import { withSource } from '../source';
import { FolderDestination } from './folder-destination';
import { removeOld } from './remove-old';

/** Copies files to a folder of the machine, one after the other. */
export async function copyToFolder(job: Job, rows: readonly DeliveryFileRow[]): Promise<void> {
  const { way } = job.wish;
  if (way.kind !== 'folder') return;
  const folder = new FolderDestination(way.path, job.context.writeRoots);
  const ours = onRecord(job);
  const record = way.removesOld ? await job.inDatabase(() => deliveredTo(job.context.database, job.row.place!)) : [];
  let hasFailed = false;
  for (const row of rows) {
    job.goOn();
    // A page or a manifest tells of all files: it comes when they have come.
    if (hasFailed && row.outputId === null) return;
    try {
      const state = await withSource(job, row, (from) =>
        folder.put({ from, to: row.path, bytes: Number(row.bytes), sha256: row.sha256 }, ours),
      );
      await job.settle(row, state);
    } catch (error) {
      if (!(error instanceof ProblemError)) throw error;
      hasFailed = true;
      await job.settle(row, 'failed', error.problem);
      await job.say(`${row.path}: ${error.message}`);
    }
  }
  if (way.removesOld && !hasFailed) await removeOld(job, record, '', (act) => act(folder));
}
