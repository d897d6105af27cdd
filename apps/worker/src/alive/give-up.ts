import { NOTHING_SALIENT, type Problem } from '@rundle/core';
import { finishClaim, type JobOf, Jobs, MOST_DEATHS, MOST_INTERRUPTIONS, notify, notifyTopic, offer, type SpentWork } from '@rundle/store';
import type { Context } from '../context';
import { finishRun } from '../work/finish-run';
import { settleFound } from '../work/take-over';

const PROBLEMS: Record<SpentWork['reason'], Problem> = {
  crashed: {
    code: 'renderer-crashed',
    message: `This picture stopped the renderer ${MOST_DEATHS} times and was given up. Export it again in another format, then try once more.`,
  },
  interrupted: {
    code: 'interrupted',
    message: `The work on this picture was interrupted ${MOST_INTERRUPTIONS} times, through no fault of its own, and was given up. Try again.`,
  },
};

/** Ends work that has used up its attempts, whatever it is: what it was for fails for good, with the reason. */
export async function giveUp(context: Context, work: SpentWork): Promise<void> {
  context.log.error({ work: work.key, reason: work.reason }, 'given up');
  const problem = PROBLEMS[work.reason];
  switch (work.name) {
    case 'render-master':
      return failOutputs(context, work, Jobs['render-master'].parse(work.payload), problem);
    case 'read-master':
      return failMaster(context, work, Jobs['read-master'].parse(work.payload), problem);
    case 'weigh-master':
      return leaveUnweighed(context, work, Jobs['weigh-master'].parse(work.payload));
    case 'see-master':
      return leaveUnseen(context, work, Jobs['see-master'].parse(work.payload));
    case 'check-watermark':
      return refuseWatermark(context, work, Jobs['check-watermark'].parse(work.payload), problem);
    case 'move-outputs':
      return goOnLater(context, work);
  }
}

async function failOutputs(context: Context, work: SpentWork, { runId, masterId }: JobOf<'render-master'>, error: Problem): Promise<void> {
  const { sequelize, outputs, runs } = context.database;
  // What the last attempt has put in place before it died is no failure.
  await settleFound(context, work, await outputs.findAll({ where: { runId, masterId, state: ['planned', 'running'] } }));
  const run = await runs.findByPk(runId);
  await sequelize.transaction(async (transaction) => {
    if (!(await finishClaim(sequelize, work, transaction))) return;
    const change = { state: 'failed' as const, error, content: null, finishedAt: new Date() };
    const open = { runId, masterId, state: ['planned', 'running'], attempt: work.attempt };
    const [, rows] = await outputs.update(change, { where: open, returning: true, transaction });
    if (run) await notify(sequelize, { about: 'outputs', setId: run.setId, ids: rows.map(({ id }) => id) }, transaction);
    await finishRun(context, runId, transaction);
  });
}

/** Files are on their way, so that it is never given up: a disk that is full, or away, comes back. In s. */
const LATER = 30;

async function goOnLater({ database: { sequelize } }: Context, { key }: SpentWork): Promise<void> {
  await sequelize.query('UPDATE work SET worker_id = NULL, deaths = 0, interruptions = 0 WHERE key = :key', { replacements: { key } });
  await offer(sequelize, [key], LATER);
}

async function failMaster({ database }: Context, work: SpentWork, { masterId }: JobOf<'read-master'>, problem: Problem): Promise<void> {
  const { sequelize, masters } = database;
  await sequelize.transaction(async (transaction) => {
    if (!(await finishClaim(sequelize, work, transaction))) return;
    const master = await masters.findByPk(masterId, { transaction });
    if (!master) return;
    await master.update({ state: 'failed', problem: { ...problem, file: master.fileName } }, { transaction });
    await notify(sequelize, { about: 'masters', setId: master.setId, ids: [masterId] }, transaction);
  });
}

/** Its weights stay as rough as they are; it is not tried again. */
async function leaveUnweighed({ database }: Context, work: SpentWork, { masterId, small }: JobOf<'weigh-master'>): Promise<void> {
  const { sequelize, masters } = database;
  await sequelize.transaction(async (transaction) => {
    if (!(await finishClaim(sequelize, work, transaction))) return;
    const master = await masters.findByPk(masterId, { transaction, lock: true });
    if (master?.facts && !small) await master.update({ facts: { ...master.facts, finelyWeighed: true } }, { transaction });
  });
}

/** It is cropped in the middle; it is not tried again. */
async function leaveUnseen({ database }: Context, work: SpentWork, { masterId }: JobOf<'see-master'>): Promise<void> {
  const { sequelize, masters } = database;
  await sequelize.transaction(async (transaction) => {
    if (!(await finishClaim(sequelize, work, transaction))) return;
    const master = await masters.findByPk(masterId, { transaction, lock: true });
    if (master?.facts) await master.update({ facts: { ...master.facts, salience: NOTHING_SALIENT } }, { transaction });
  });
}

async function refuseWatermark({ database }: Context, work: SpentWork, job: JobOf<'check-watermark'>, problem: Problem): Promise<void> {
  const { sequelize, watermarks } = database;
  await sequelize.transaction(async (transaction) => {
    if (!(await finishClaim(sequelize, work, transaction))) return;
    await watermarks.update({ state: 'refused', problem }, { where: { id: job.watermarkId }, transaction });
    await notifyTopic(sequelize, 'watermarks', transaction);
  });
}
