import { changesFor, type Problem, ProblemError, Receiver } from '@rundle/core';
import { deliveredTo, type DeliveryFileRow, secretOf } from '@rundle/store';
import pLimit from 'p-limit';
import { type Destination, openWebSpace } from '@rundle/transport';
import type { Job } from '../job';
import { onRecord } from '../on-record';
import { withSource } from '../source';
import { withRetry } from './with-retry';

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
  const withSpace = async (act: (space: Destination) => Promise<void>) => {
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
  const ours = onRecord(job);
  // What an earlier try has sent, whose answer was lost, lies there: it was sent all the same.
  const begun = new Set<DeliveryFileRow>();
  const sendOne = async (space: Destination, row: DeliveryFileRow): Promise<'sent' | 'kept'> => {
    const [to, bytes] = [prefix + row.path, Number(row.bytes)];
    if (unchanged.has(row) && (await space.holds(to, bytes))) return 'kept';
    const isAgain = begun.has(row);
    begun.add(row);
    const state = await withSource(job, row, (from) => space.put({ from, to, bytes, sha256: row.sha256 }, ours));
    return isAgain ? 'sent' : state;
  };
  const sendAll = (some: readonly DeliveryFileRow[]) => {
    const left = new Set(some);
    return withRetry(
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
                    await settle(row, await sendOne(space, row));
                  } catch (error) {
                    if (!isOfFile(error)) {
                      broken = true;
                      throw error;
                    }
                    hasFailed = true;
                    await settle(row, 'failed', error.problem);
                    await job.say(`${row.path}: ${error.message}`);
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
  const gone = new Set(old);
  if (way.removesOld && old.length)
    await removeOld(
      job,
      record.filter(({ path }) => gone.has(path)),
      prefix,
      withSpace,
    );
}

/** What concerns one file only: the others go on. */
const isOfFile = (error: unknown): error is ProblemError => error instanceof ProblemError && error.problem.file !== undefined;

/** What somebody has changed since it was delivered is no longer ours to remove: it stays, and is told. */
async function removeOld(
  job: Job,
  old: readonly { path: string; bytes: number; sha256: string }[],
  prefix: string,
  withSpace: (act: (space: Destination) => Promise<void>) => Promise<void>,
): Promise<void> {
  const { sequelize } = job.context.database;
  const left = new Set(old);
  const stays: string[] = [];
  await withRetry(
    job,
    () =>
      withSpace(async (space) => {
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
