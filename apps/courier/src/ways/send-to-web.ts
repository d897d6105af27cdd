import { changesFor, ProblemError, Receiver } from '@rundle/core';
import { deliveredTo, type DeliveryFileRow, secretOf } from '@rundle/store';
import pLimit from 'p-limit';
import { type Destination, type OnRecord, openWebSpace } from '@rundle/transport';
import type { Job } from '../job';
import { onRecord } from '../on-record';
import { withSource } from '../source';
import { type Line, removeOld } from './remove-old';
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
  const line = await lineTo(job, way.receiverId);
  const prefix = way.folder ? `${way.folder}/` : '';
  const record = await job.inDatabase(() => deliveredTo(job.context.database, job.row.place!));
  const sending = new Sending(job, line, prefix, new Set(changesFor(rows, record).keep));
  await sending.sendAll(rows.filter(({ outputId }) => outputId !== null));
  // A page or a manifest comes when all that it tells of has come; the page itself last.
  if (sending.hasFailed) return;
  for (const row of rows.filter(({ outputId }) => outputId === null)) await sending.sendAll([row]);
  if (way.removesOld) await removeOld(job, record, prefix, line);
}

/** @throws ProblemError when the receiver is gone */
async function lineTo(job: Job, receiverId: string): Promise<Line> {
  const { receivers } = job.context.database;
  const found = await job.inDatabase(() => receivers.findOne({ where: { id: receiverId, deletedAt: null } }));
  const receiver = found && Receiver.parse(found.body);
  if (!found || !receiver || receiver.kind === 'smtp')
    throw new ProblemError({ code: 'receiver-gone', message: 'The receiver has been deleted. Deliver again to another.' });
  const secret = await secretOf(found, job.context.secrets);
  return async (act) => {
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
}

/** The files of one delivery on their way to a web space. */
class Sending {
  /** Whether a file came to nothing: the others have gone on. */
  hasFailed = false;
  private settled = 0;
  private readonly ours: OnRecord;
  /** What an earlier try has sent, whose answer was lost, lies there: it was sent all the same. */
  private readonly begun = new Set<DeliveryFileRow>();

  /** @param unchanged what is on record to lie there already */
  constructor(
    private readonly job: Job,
    private readonly line: Line,
    private readonly prefix: string,
    private readonly unchanged: ReadonlySet<DeliveryFileRow>,
  ) {
    this.ours = onRecord(job);
  }

  /** Sends some files, as often as the line breaks. */
  sendAll(some: readonly DeliveryFileRow[]): Promise<void> {
    const left = new Set(some);
    return withRetry(
      this.job,
      () => (left.size === 0 ? Promise.resolve() : this.line((space) => this.sendLeft(space, left))),
      () => this.settled,
    );
  }

  /** @throws what broke the line */
  private async sendLeft(space: Destination, left: Set<DeliveryFileRow>): Promise<void> {
    const limit = pLimit(AT_ONCE);
    let broken = false;
    const all = [...left].map((row) =>
      limit(async () => {
        this.job.goOn();
        if (broken) return; // the others come again with it
        try {
          await this.settle(space, row);
        } catch (error) {
          broken = true;
          throw error;
        }
        left.delete(row);
      }),
    );
    const ended = await Promise.allSettled(all);
    const failed = ended.find((one) => one.status === 'rejected');
    if (failed) throw failed.reason;
  }

  /** Sends one file and writes down what came of it. @throws what does not concern this file alone */
  private async settle(space: Destination, row: DeliveryFileRow): Promise<void> {
    const { job } = this;
    try {
      await job.settle(row, await this.send(space, row));
    } catch (error) {
      if (!isOfFile(error)) throw error;
      this.hasFailed = true;
      await job.settle(row, 'failed', error.problem);
      await job.say(`${row.path}: ${error.message}`);
    }
    this.settled++;
  }

  private async send(space: Destination, row: DeliveryFileRow): Promise<'sent' | 'kept'> {
    const [to, bytes] = [this.prefix + row.path, Number(row.bytes)];
    if (this.unchanged.has(row) && (await space.holds(to, bytes))) return 'kept';
    const isAgain = this.begun.has(row);
    this.begun.add(row);
    const state = await withSource(this.job, row, (from) => space.put({ from, to, bytes, sha256: row.sha256 }, this.ours));
    return isAgain ? 'sent' : state;
  }
}

/** What concerns one file only: the others go on. */
const isOfFile = (error: unknown): error is ProblemError => error instanceof ProblemError && error.problem.file !== undefined;
