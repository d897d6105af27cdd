import type { OnRecord } from '@rundle/transport';
import { QueryTypes } from 'sequelize';
import type { Job } from './job';

/** What is on record as an output of ours, or as delivered. */
export function onRecord(job: Job): OnRecord {
  const isThere = async (column: 'bytes' | 'content', replacements: Record<string, string | number>): Promise<boolean> => {
    const [outputs, delivered] = column === 'bytes' ? ['bytes = :bytes', 'bytes = :bytes'] : ['content = :sha256', 'sha256 = :sha256'];
    const [found] = await job.inDatabase(() =>
      job.context.database.sequelize.query<{ ours: boolean }>(
        `SELECT EXISTS (SELECT FROM outputs WHERE ${outputs}) OR EXISTS (SELECT FROM delivered WHERE ${delivered}) AS ours`,
        { type: QueryTypes.SELECT, replacements },
      ),
    );
    return found?.ours ?? false;
  };
  return {
    hasBytes: (bytes) => isThere('bytes', { bytes }),
    has: (sha256) => isThere('content', { sha256 }),
  };
}
