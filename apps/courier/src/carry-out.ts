import { counted, ProblemError } from '@rundle/core';
import type { DeliveryFileRow } from '@rundle/store';
import { Op } from 'sequelize';
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
    await job.say(`Held: ${counted(findings.length, 'remark')} by the rules of ${job.row.house?.title ?? 'the receiver'}.`);
    return false;
  }
  if (job.row.decision === 'without') {
    const broken = new Set(findings.map(({ path }) => path));
    for (const row of await job.files({ state: 'waiting' })) if (broken.has(row.path)) await job.settle(row, 'left');
  }
  await makeFiles(job, known);
  await job.change({ state: 'sending', findings });
  const [all, failed] = [await job.files({ outputId: { [Op.ne]: null } }), await job.files({ state: 'failed' })];
  await job.say(
    failed.length
      ? `${all.length - failed.length} of ${counted(all.length, 'file')} were opened and checked; ${failed.length} cannot go: ${reasonsOf(failed)}`
      : 'All files were opened and checked.',
  );
  return true;
}

async function send(job: Job): Promise<void> {
  const rows = await job.files({ state: 'waiting' });
  switch (job.wish.way.kind) {
    case 'folder':
      return copyToFolder(job, rows);
    case 'web':
      return sendToWeb(job, rows);
    case 'mail':
      return sendMail(job, rows);
    case 'zip':
      // It is packed while it is downloaded.
      return job.settleAll(rows);
  }
}

/** Done only when every file that was to go has gone. */
async function end(job: Job): Promise<void> {
  const failed = await job.files({ state: 'failed' });
  const problem = failed[0]?.problem ? { ...failed[0].problem, message: reasonsOf(failed) } : null;
  if (problem) await job.change({ state: 'failed', finishedAt: new Date(), problem });
  else await job.change({ state: 'done', finishedAt: new Date() });
  await job.say(problem ? `Ended: ${counted(failed.length, 'file')} did not go out.` : 'Done.');
}

/** Why files did not go: each kind of reason once, with how many more there are. */
function reasonsOf(failed: readonly DeliveryFileRow[]): string {
  const kinds = new Map<string, DeliveryFileRow[]>();
  for (const row of failed) {
    const code = row.problem?.code ?? '';
    kinds.set(code, [...(kinds.get(code) ?? []), row]);
  }
  return [...kinds.values()]
    .map(
      ([first, ...more]) => `${first?.problem?.message}${more.length ? ` The same holds for ${counted(more.length, 'more file')}.` : ''}`,
    )
    .join(' ');
}
