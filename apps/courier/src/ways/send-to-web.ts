import { changesFor, type Problem, ProblemError, Receiver } from '@rundle/core';
import { deliveredTo, type DeliveryFileRow, secretOf } from '@rundle/store';
import pLimit from 'p-limit';
import { openWebSpace, type WebSpace } from '@rundle/transport';
import type { Job } from '../job';
import { sourceOf } from '../source';
import { patiently } from './patient';

/** Files that are under way at once: the line is never idle while an answer is waited for. */
const AT_ONCE = 4;

/**
 * Sends files to a web space: what is on record to lie there, and does, is left; the page of a gallery goes when its pictures have gone. When
 * the line breaks it is opened anew, and goes on with what had not come whole.
 */
export async function sendToWeb(job: Job, rows: readonly DeliveryFileRow[]): Promise<void> {
  const { way } = job.wish;
  if (way.kind !== 'web') return;
  const { receivers } = job.context.database;
  const found = await job.inDatabase(() => receivers.findOne({ where: { id: way.receiverId, deletedAt: null } }));
  const receiver = found && Receiver.parse(found.body);
  if (!found || !receiver || receiver.kind === 'smtp')
    throw new ProblemError({ code: 'receiver-gone', message: 'The receiver has been deleted. Deliver again to another.' });
  const secret = await secretOf(found, job.context.secrets);
  const prefix = way.folder ? `${way.folder}/` : '';
  const record = await job.inDatabase(() => deliveredTo(job.context.database, job.row.place!));
  const { keep } = changesFor(rows, record);
  const unchanged = new Set(keep);
  let settled = 0;
  let hasFailed = false;
  const settle = async (row: DeliveryFileRow, state: DeliveryFileRow['state'], problem: Problem | null = null) => {
    await job.settle(row, state, problem);
    settled++;
  };
  const withSpace = async (act: (space: WebSpace) => Promise<void>) => {
    const space = await openWebSpace(receiver, secret);
    // A cancelled delivery ends at once, not with the file that is under way.
    const end = () => void space.close();
    job.signal.addEventListener('abort', end, { once: true });
    try {
      await act(space);
    } finally {
      job.signal.removeEventListener('abort', end);
      await space.close();
    }
  };
  const sendAll = (some: readonly DeliveryFileRow[]) => {
    const left = new Set(some);
    return patiently(
      job,
      () =>
        left.size === 0
          ? Promise.resolve()
          : withSpace(async (space) => {
              const limit = pLimit(AT_ONCE);
              let broken = false;
              const all = [...left].map((row) =>
                limit(async () => {
                  job.goOn();
                  if (broken) return; // the others come again with it
                  try {
                    await settle(row, await sendOne(job, space, row, { to: prefix + row.path, isKnown: unchanged.has(row) }));
                  } catch (error) {
                    if (!isOfFile(error)) {
                      broken = true;
                      throw error;
                    }
                    hasFailed = true;
                    await settle(row, 'failed', error.problem);
                  }
                  left.delete(row);
                }),
              );
              const ended = await Promise.allSettled(all);
              const failed = ended.find((one) => one.status === 'rejected');
              if (failed) throw failed.reason;
            }),
      () => settled,
    );
  };
  await sendAll(rows.filter(({ outputId }) => outputId !== null));
  // A page or a manifest comes when all that it tells of has come; the page itself last.
  if (hasFailed) return;
  for (const row of rows.filter(({ outputId }) => outputId === null)) await sendAll([row]);
  // Held against all files of the delivery: what has gone before an interruption is not old.
  const { old } = changesFor(await job.files(), record);
  if (way.removesOld && old.length) await removeOld(job, old, prefix, withSpace);
}

async function sendOne(
  job: Job,
  space: WebSpace,
  row: DeliveryFileRow,
  { to, isKnown }: { to: string; isKnown: boolean },
): Promise<'sent' | 'kept'> {
  const bytes = Number(row.bytes);
  if (isKnown && (await space.holds(to, bytes))) return 'kept';
  await space.put(await sourceOf(job, row), to, bytes, row.sha256);
  return 'sent';
}

/** What concerns one file only: the others go on. */
const isOfFile = (error: unknown): error is ProblemError => error instanceof ProblemError && error.problem.file !== undefined;

async function removeOld(
  job: Job,
  old: readonly string[],
  prefix: string,
  withSpace: (act: (space: WebSpace) => Promise<void>) => Promise<void>,
): Promise<void> {
  const { sequelize } = job.context.database;
  const left = new Set(old);
  await patiently(
    job,
    () =>
      withSpace(async (space) => {
        for (const path of [...left]) {
          job.goOn();
          await space.remove(prefix + path);
          await job.inDatabase(() =>
            sequelize.query('DELETE FROM delivered WHERE place = :place AND path = :path', {
              replacements: { place: job.row.place, path },
            }),
          );
          left.delete(path);
          await job.change({ removed: job.row.removed + 1 });
        }
      }),
    () => old.length - left.size,
  );
  await job.say(`Removed: ${old.slice(0, 20).join(', ')}${old.length > 20 ? ` and ${old.length - 20} more` : ''}.`);
}
