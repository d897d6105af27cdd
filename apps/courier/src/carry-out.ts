import { join } from 'node:path';
import { ProblemError } from '@rundle/core';
import { deliveryFolder, type DeliveryFileRow } from '@rundle/store';
import { checkFiles } from './check-files';
import { type Job, Stopped } from './job';
import { makeFiles } from './made-files';
import { copyToFolder } from './ways/copy-to-folder';
import { sendMail } from './ways/send-mail';
import { sendToWeb } from './ways/send-to-web';

/**
 * Carries a delivery out from where it stands: its files are checked, then sent. Each step writes down what it has done, so that it goes on
 * after any interruption.
 */
export async function carryOut(job: Job): Promise<void> {
  try {
    if (job.row.state === 'checking' && !(await check(job))) return;
    await send(job);
    await end(job);
  } catch (error) {
    if (error instanceof Stopped || job.signal.aborted) return;
    if (!(error instanceof ProblemError)) throw error;
    await job.change({ state: 'failed', finishedAt: new Date(), problem: error.problem });
    await job.say(error.message);
  }
}

/** @returns whether it goes on */
async function check(job: Job): Promise<boolean> {
  const { findings, known } = await checkFiles(job);
  if (findings.length && job.row.decision === null) {
    await job.change({ state: 'held', findings });
    await job.say(
      `Held: ${findings.length} ${findings.length === 1 ? 'remark' : 'remarks'} by the rules of ${job.row.house?.title ?? 'the receiver'}.`,
    );
    return false;
  }
  if (job.row.decision === 'without') {
    const broken = new Set(findings.map(({ path }) => path));
    for (const row of await job.files({ state: 'waiting' })) if (broken.has(row.path)) await job.settle(row, 'left');
  }
  await makeFiles(job, known);
  await job.change({ state: 'sending', findings, checkedAt: new Date() });
  await job.say('All files were opened and checked.');
  return true;
}

async function send(job: Job): Promise<void> {
  const rows = await job.files({ state: 'waiting' });
  const { outputs } = job.context.files;
  const pathOf = ({ outputId, target, folder, fileName, path }: DeliveryFileRow): string =>
    outputId === null ? join(deliveryFolder(job.context.data, job.row.id), path) : join(outputs.pathOf(target!)!, folder!, fileName!);
  switch (job.wish.way.kind) {
    case 'folder':
      return copyToFolder(job, rows, pathOf);
    case 'web':
      return sendToWeb(job, rows, pathOf);
    case 'mail':
      return sendMail(job, rows, pathOf);
    case 'zip':
      // It is packed while it is downloaded.
      for (const row of rows) await job.settle(row, 'sent');
  }
}

/** Done only when every file that was to go has gone. */
async function end(job: Job): Promise<void> {
  const failed = await job.files({ state: 'failed' });
  const problem = failed[0]?.problem ?? null;
  if (problem) await job.change({ state: 'failed', finishedAt: new Date(), problem });
  else await job.change({ state: 'done', finishedAt: new Date() });
  await job.say(problem ? `Ended with ${failed.length} files that did not go out.` : 'Done.');
}
