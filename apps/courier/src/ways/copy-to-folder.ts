import { copyFile, link, lstat, mkdir, rename, rm, unlink } from 'node:fs/promises';
import { basename, dirname, join } from 'node:path';
import { ProblemError, writeProblem } from '@rundle/core';
import { type DeliveryFileRow, sha256Of } from '@rundle/store';
import { QueryTypes } from 'sequelize';
import type { Job } from '../job';
import { sourceOf } from '../source';

/**
 * Copies files to a folder of the machine, one after the other: each is written aside, read back and held against its hash, then moved into
 * place. What stands there and is not on record as made or delivered here is never touched.
 */
export async function copyToFolder(job: Job, rows: readonly DeliveryFileRow[]): Promise<void> {
  const { way } = job.wish;
  if (way.kind !== 'folder') return;
  let hasFailed = false;
  for (const row of rows) {
    job.goOn();
    // A page or a manifest tells of all files: it comes when they have come.
    if (hasFailed && row.outputId === null) return;
    try {
      await job.settle(row, await copyOne(job, way.path, row));
    } catch (error) {
      const problem = writeProblem(error, row.path);
      if (!(problem instanceof ProblemError)) throw error;
      hasFailed = true;
      await job.settle(row, 'failed', problem.problem);
      await job.say(`${row.path}: ${problem.message}`);
    }
  }
}

async function copyOne(job: Job, root: string, row: DeliveryFileRow): Promise<'sent' | 'kept'> {
  const { path, sha256 } = row;
  const to = join(root, path);
  const refusal = await job.context.files.outputs.refusal(dirname(to));
  if (refusal) throw new ProblemError(refusal);
  await mkdir(dirname(to), { recursive: true });
  const there = await standing(to);
  if (there === sha256) return 'kept';
  if (there !== null && !(await isOurs(job, there)))
    throw new ProblemError({
      code: 'exists',
      file: path,
      message: `${path} stands in the folder already and was not made here, so it stays. Move it away, or deliver to another folder; then go on.`,
    });
  const aside = join(dirname(to), `.${job.row.id.slice(0, 8)}-${basename(to).slice(-80)}.part`);
  try {
    await copyFile(await sourceOf(job, row), aside);
    if ((await sha256Of(aside)) !== sha256)
      throw new ProblemError({
        code: 'not-written',
        file: path,
        message: `${path} did not come out of the copy as it went in. Check the disk, then go on.`,
      });
    if (there === null) {
      await link(aside, to); // fails where something has appeared meanwhile
      await unlink(aside);
    } else await rename(aside, to);
  } finally {
    await rm(aside, { force: true });
  }
  return 'sent';
}

/** SHA-256 of what stands at a path; empty for what is no file. */
async function standing(path: string): Promise<string | null> {
  const found = await lstat(path).catch((error: unknown) => {
    if (error instanceof Error && 'code' in error && error.code === 'ENOENT') return null;
    throw error;
  });
  if (!found) return null;
  return found.isFile() ? sha256Of(path) : '';
}

/** Whether a content is on record as an output of ours, or as delivered. */
async function isOurs(job: Job, sha256: string): Promise<boolean> {
  const [found] = await job.inDatabase(() =>
    job.context.database.sequelize.query<{ ours: boolean }>(
      `SELECT EXISTS (SELECT FROM outputs WHERE content = :sha256) OR EXISTS (SELECT FROM delivered WHERE sha256 = :sha256) AS ours`,
      { type: QueryTypes.SELECT, replacements: { sha256 } },
    ),
  );
  return found?.ours ?? false;
}
