import { type ChildProcess, spawn } from 'node:child_process';
import { realpath } from 'node:fs/promises';
import { resolve } from 'node:path';
import { BackupDone, BackupPlan, type BackupsView, isBackupDue, jsonOrNull, KEEP_WORDS } from '@rundle/core';
import { isWithin, nearest } from '@rundle/place';
import { type Config, type Database, KEEPER_HEAP_MB, notifyTopic } from '@rundle/store';
import type { Logger } from 'pino';
import { QueryTypes } from 'sequelize';
import * as z from 'zod';

/** One that failed is tried again after so long, ms. */
const AGAIN = 30 * 60_000;
/** Results that are listed. */
const MOST_LISTED = 10;

const Told = z.union([BackupDone, z.object({ problem: z.string() })]);

interface Row {
  folder: string;
  begunAt: Date;
  finishedAt: Date;
  done: BackupDone | null;
  problem: string | null;
}

/** Has backups made by a program of its own (apps/keeper): when they are due, and when somebody asks. */
export class Backups {
  private child: ChildProcess | null = null;
  private ending = false;

  /** @param program path of the bundled `keeper` */
  constructor(
    private readonly program: string,
    private readonly config: Pick<Config, 'databaseUrl' | 'data' | 'writeRoots'>,
    private readonly database: Database,
    private readonly log: Logger,
  ) {}

  async close(): Promise<void> {
    this.ending = true;
    const { child } = this;
    if (!child) return;
    const ended = new Promise((resolve) => child.once('exit', resolve));
    child.kill('SIGTERM');
    await ended;
  }

  async plan(): Promise<BackupPlan> {
    const [row] = await this.database.sequelize.query<{ plan: unknown }>('SELECT plan FROM backup_plan', { type: QueryTypes.SELECT });
    return BackupPlan.parse(row?.plan ?? {});
  }

  async keepPlan(plan: BackupPlan): Promise<void> {
    const { sequelize } = this.database;
    await sequelize.query('INSERT INTO backup_plan (id, plan) VALUES (1, :plan) ON CONFLICT (id) DO UPDATE SET plan = excluded.plan', {
      replacements: { plan: JSON.stringify(plan) },
    });
    await notifyTopic(sequelize, 'backups');
    void this.look().catch(() => {}); // looked again within the minute
  }

  async view(): Promise<BackupsView> {
    const [plan, rows] = [await this.plan(), await this.rows()];
    return {
      plan,
      running: this.child !== null,
      folders: this.config.writeRoots,
      rule: KEEP_WORDS,
      last: rows.map(({ folder, begunAt, finishedAt, done, problem }) => ({
        folder,
        begunAt: begunAt.toISOString(),
        finishedAt: finishedAt.toISOString(),
        done,
        problem,
      })),
    };
  }

  private rows(): Promise<Row[]> {
    return this.database.sequelize.query<Row>(
      `SELECT folder, begun_at AS "begunAt", finished_at AS "finishedAt", done, problem FROM backups ORDER BY begun_at DESC LIMIT ${MOST_LISTED}`,
      { type: QueryTypes.SELECT },
    );
  }

  /** Makes one that is due. */
  async look(): Promise<void> {
    const [plan, rows] = [await this.plan(), await this.rows()];
    const [newest] = rows;
    // One that failed is no backup: it is tried again, though not at once where nothing has been planned otherwise since.
    if (newest?.problem && newest.folder === plan.folder && Date.now() - newest.begunAt.getTime() < AGAIN) return;
    const last = rows.find(({ problem }) => problem === null)?.begunAt ?? null;
    if (plan.folder === null || !isBackupDue(plan, last, new Date())) return;
    // The folders that may be written to may be others since it was planned.
    const refusal = await this.refusal(plan.folder);
    if (refusal === null) this.make(plan.folder, plan.sealKey);
    else await this.keep({ folder: plan.folder, begunAt: new Date(), done: null, problem: refusal });
  }

  /** Why no backup may be written to a folder; null: it may. */
  async refusal(folder: string): Promise<string | null> {
    const path = resolve(folder);
    const { data, writeRoots } = this.config;
    if (isWithin(path, data) || isWithin(data, path))
      return `${folder} is the data folder itself, or holds it: a backup belongs elsewhere, best on another disk.`;
    // Where it leads by links, as far as it is there.
    const at = await nearest(path);
    const real = (one: string) => realpath(one).catch(() => one);
    for (const root of writeRoots)
      if (isWithin(path, root) && (!isWithin(at, root) || isWithin(await real(at), await real(root)))) return null;
    return `Rundle may not write to ${folder}. Choose a folder below those that it may write to, or name it where Rundle is started (RUNDLE_WRITE_ROOTS).`;
  }

  /** Begins a backup, unless one is being made. */
  make(folder: string, sealKey: string | null): void {
    if (this.child || this.ending) return;
    const { databaseUrl, data } = this.config;
    const args = ['backup', '--data', data, '--folder', folder, ...(sealKey === null ? [] : ['--seal-key', sealKey])];
    const begunAt = new Date();
    const child = spawn(process.execPath, [`--max-old-space-size=${KEEPER_HEAP_MB}`, this.program, ...args], {
      env: { ...process.env, RUNDLE_DATABASE_URL: databaseUrl, RUNDLE_BACKUP_PASSPHRASE: '' },
      stdio: ['ignore', 'pipe', 'pipe'],
    });
    this.child = child;
    let said = '';
    let cried = '';
    child.stdout.setEncoding('utf8').on('data', (text: string) => (said += text));
    child.stderr.setEncoding('utf8').on('data', (text: string) => (cried = (cried + text).slice(-1000)));
    child.once('error', (error) => (cried += String(error)));
    child.once('close', () => void this.ended(folder, begunAt, said, cried));
    void this.tell();
  }

  private async ended(folder: string, begunAt: Date, said: string, cried: string): Promise<void> {
    this.child = null;
    // The server ends: it is made after the next start.
    if (this.ending) return;
    const told = Told.safeParse(jsonOrNull(said));
    const problem = !told.success
      ? `The program that makes backups ended without a word. ${cried.trim().split('\n').at(-1) ?? ''}`.trim()
      : 'problem' in told.data
        ? told.data.problem
        : null;
    if (problem !== null) this.log.error({ folder, problem }, 'a backup could not be made');
    await this.keep({ folder, begunAt, done: told.success && !('problem' in told.data) ? told.data : null, problem }).catch(
      (error: unknown) => this.log.error({ err: error }, 'what came of a backup could not be written down'),
    );
  }

  private async keep({ folder, begunAt, done, problem }: Omit<Row, 'finishedAt'>): Promise<void> {
    await this.database.sequelize.query(
      'INSERT INTO backups (folder, begun_at, finished_at, done, problem) VALUES (:folder, :begunAt, now(), :done, :problem)',
      { replacements: { folder, begunAt, done: done && JSON.stringify(done), problem } },
    );
    await this.tell();
  }

  private async tell(): Promise<void> {
    await notifyTopic(this.database.sequelize, 'backups').catch(() => {}); // pages look again when they connect
  }
}
