import { changesFor } from '@rundle/core';
import type { deliveredTo } from '@rundle/store';
import type { Destination } from '@rundle/transport';
import type { Job } from '../job';
import { withRetry } from './with-retry';

/** Opens the line to a receiver, does something over it, and closes it, whatever happened. */
export type Line = (act: (space: Destination) => Promise<void>) => Promise<void>;

type Delivered = Awaited<ReturnType<typeof deliveredTo>>[number];

/**
 * Removes what earlier deliveries left at a receiver and this one has not. What somebody has changed since it was delivered is no longer ours to
 * remove: it stays, and is told.
 * @param record what lay there before this delivery
 * @param prefix of paths there
 */
export async function removeOld(job: Job, record: readonly Delivered[], prefix: string, line: Line): Promise<void> {
  const { sequelize } = job.context.database;
  // Held against all files of the delivery: what has gone before an interruption is not old.
  const gone = new Set(changesFor(await job.files(), record).old);
  const old = record.filter(({ path }) => gone.has(path));
  if (old.length === 0) return;
  const left = new Set(old);
  const stays: string[] = [];
  await withRetry(
    job,
    () =>
      line(async (space) => {
        for (const file of [...left]) {
          job.goOn();
          const isGone = await space.remove(prefix + file.path, file);
          await job.inDatabase(() =>
            sequelize.query('DELETE FROM delivered WHERE place = :place AND path = :path', {
              replacements: { place: job.row.place, path: file.path },
            }),
          );
          left.delete(file);
          if (isGone) await job.change({ removed: job.row.removed + 1 });
          else stays.push(file.path);
        }
      }),
    () => old.length - left.size,
  );
  const removed = old.map(({ path }) => path).filter((path) => !stays.includes(path));
  if (removed.length) await job.say(`Removed: ${listed(removed)}.`);
  if (stays.length) await job.say(`Changed since they were delivered, so they stay: ${listed(stays)}.`);
}

const listed = (paths: readonly string[]): string =>
  `${paths.slice(0, 20).join(', ')}${paths.length > 20 ? ` and ${paths.length - 20} more` : ''}`;
