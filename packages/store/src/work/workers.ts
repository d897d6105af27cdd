import { hostname } from 'node:os';
import { ENGINE, FILE_TYPE_NAMES, type FileTypeName, type MasterFormat, needsPrograms } from '@rundle/core';
import type { Client } from 'pg';
import { QueryTypes, type Sequelize, type Transaction } from 'sequelize';

/*
 * Which workers live. Each holds an advisory lock of PostgreSQL on a connection of its own for as long as it lives, and beats.
 * A lock says more than a beat: it ends with the process, and stays while a process is merely stopped or starved.
 */

/** The first key of the locks of workers; the second is the worker's number. Any number of ours. */
const LOCK_CLASS = 48_202;

/** Between two beats, in ms. */
export const BEAT = 2000;
/** A worker is dead when its lock is free and its last beat so long ago, in seconds. */
export const DEAD_AFTER = 10;
/** One that holds its lock and does not beat for so long is told on the page and replaced, in seconds. */
export const STALLED_AFTER = 300;

/** The types that a machine can read and write beside those that every one can. */
export interface Abilities {
  reads: readonly MasterFormat[];
  writes: readonly FileTypeName[];
}

/** What a worker says of itself with each beat. */
export interface WorkerStats {
  /** Since when it, or those whose place it took to give memory back, have been there, ms since 1970. */
  since: number;
  /** Files that they have made, and could not make. */
  done: number;
  failed: number;
  /** Files a minute, over the last minutes. */
  perMinute: number;
  /** For how long it has been at its work, in ms; null: it is at none. */
  busyMs: number | null;
  memoryBytes: number;
}

/** Who signs on. */
export interface WorkerName {
  /** Its own, which no other ever has. */
  id: string;
  /** Its place on its machine, which the worker that follows it takes. */
  seat: string;
}

/**
 * Signs a worker on, or on again under its old name, and takes its lock.
 */
export async function signOn(client: Client, { id, seat }: WorkerName, poolId: string | null, { reads, writes }: Abilities): Promise<void> {
  const { rows } = await client.query<{ number: number }>(
    `INSERT INTO workers (id, pool_id, host, pid, reads, writes, engine, seat) VALUES ($1, $2, $3, $4, $5, $6, $7, $8)
     ON CONFLICT (id) DO UPDATE SET beat_at = now(), pool_id = coalesce(excluded.pool_id, workers.pool_id), reads = excluded.reads, writes = excluded.writes
     RETURNING number`,
    [id, poolId, hostname(), process.pid, reads, writes, ENGINE, seat],
  );
  // Its own connection of before may not have been ended by the server yet: then the lock is free in a moment.
  await client.query('SELECT pg_advisory_lock($1, $2)', [LOCK_CLASS, rows[0]!.number]);
}

/** Whether a worker `w` is to take nothing new. */
export const IS_DRAINED = 'EXISTS (SELECT FROM drained_seats d WHERE d.host = w.host AND d.seat = w.seat)';

/** @returns whether it is to take nothing new; null: others have taken this worker for dead, and it signs on again */
export async function beat(client: Client, { id }: WorkerName, poolId: string | null, stats: WorkerStats): Promise<boolean | null> {
  const { rows } = await client.query<{ drained: boolean }>(
    `UPDATE workers w SET beat_at = now(), pool_id = coalesce($2, pool_id), stalled_at = NULL, stats = $3 WHERE id = $1
     RETURNING ${IS_DRAINED} AS drained`,
    [id, poolId, JSON.stringify(stats)],
  );
  return rows[0]?.drained ?? null;
}

/** Adds to what all workers have done, ever. @param values by name */
export async function addTotals(client: Client, values: Readonly<Record<string, number>>): Promise<void> {
  if (Object.keys(values).length === 0) return;
  await client.query(
    `INSERT INTO work_totals (name, value) SELECT key, value::text::float8 FROM jsonb_each($1::jsonb) ORDER BY key
     ON CONFLICT (name) DO UPDATE SET value = work_totals.value + excluded.value`,
    [JSON.stringify(values)],
  );
}

/** Drains the seat of a worker, or wakes it: whoever sits there. @returns false when there is no such worker */
export async function drainWorker(sequelize: Sequelize, workerId: string, drained: boolean): Promise<boolean> {
  const change = drained
    ? `INSERT INTO drained_seats (host, seat) SELECT host, seat FROM at ON CONFLICT DO NOTHING`
    : `DELETE FROM drained_seats d USING at WHERE d.host = at.host AND d.seat = at.seat`;
  const rows = await sequelize.query(
    `WITH at AS (SELECT host, seat FROM workers WHERE id = :workerId AND seat IS NOT NULL), changed AS (${change}) SELECT host FROM at`,
    { type: QueryTypes.SELECT as const, replacements: { workerId } },
  );
  return rows.length > 0;
}

export async function signOff(sequelize: Sequelize, workerId: string): Promise<void> {
  await sequelize.query('DELETE FROM workers WHERE id = :workerId', { replacements: { workerId } });
}

const HOLDS_LOCK = `EXISTS (SELECT 1 FROM pg_locks l WHERE l.locktype = 'advisory' AND l.granted AND l.classid = ${LOCK_CLASS}
  AND l.objid = w.number AND l.database = (SELECT oid FROM pg_database WHERE datname = current_database()))`;

export interface WorkerEnd {
  id: string;
  poolId: string | null;
}

/**
 * Workers that have died without a word. After an outage of the database, which frees all locks, it waits one interval, so that
 * all can lock again.
 */
export async function deadWorkers(sequelize: Sequelize): Promise<WorkerEnd[]> {
  return sequelize.query<WorkerEnd>(
    `SELECT w.id, w.pool_id AS "poolId" FROM workers w
     WHERE w.beat_at < now() - make_interval(secs => :after) AND NOT ${HOLDS_LOCK}
       AND pg_postmaster_start_time() < now() - make_interval(secs => :after)`,
    { type: QueryTypes.SELECT, replacements: { after: DEAD_AFTER } },
  );
}

/** Marks workers that hold their lock and have not beaten for minutes. @returns those of them that were not marked before */
export async function markStalled(sequelize: Sequelize): Promise<WorkerEnd[]> {
  return sequelize.query<WorkerEnd>(
    `UPDATE workers w SET stalled_at = now()
     WHERE w.stalled_at IS NULL AND w.beat_at < now() - make_interval(secs => :after) AND ${HOLDS_LOCK}
     RETURNING w.id, w.pool_id AS "poolId"`,
    { type: QueryTypes.SELECT, replacements: { after: STALLED_AFTER } },
  );
}

/** Removes a worker from the list. @returns it, if it was there: of several who see a death, one deals with it */
export async function removeWorker(sequelize: Sequelize, workerId: string): Promise<WorkerEnd | null> {
  const [row] = await sequelize.query<WorkerEnd>('DELETE FROM workers WHERE id = :workerId RETURNING id, pool_id AS "poolId"', {
    type: QueryTypes.SELECT as const,
    replacements: { workerId },
  });
  return row ?? null;
}

/** Owners of work that are no registered worker: left over when one was removed half-way. */
export async function unknownHolders(sequelize: Sequelize): Promise<WorkerEnd[]> {
  return sequelize.query<WorkerEnd>(
    `SELECT DISTINCT h.worker_id AS id, NULL AS "poolId" FROM work h
     WHERE h.worker_id IS NOT NULL AND NOT EXISTS (SELECT 1 FROM workers w WHERE w.id = h.worker_id)`,
    { type: QueryTypes.SELECT },
  );
}

export interface ListedWorker extends Abilities {
  id: string;
  host: string;
  beatSecondsAgo: number;
}

/** The workers that have signed on, with the time since their last beat. */
export async function listWorkers(sequelize: Sequelize): Promise<ListedWorker[]> {
  return sequelize.query<ListedWorker>(
    `SELECT id, host, reads, writes, round(extract(epoch FROM now() - beat_at)::numeric, 1)::float8 AS "beatSecondsAgo" FROM workers ORDER BY number`,
    { type: QueryTypes.SELECT },
  );
}

/**
 * The file types that every worker can write: any of them may get the work. While no worker is there, all types count: whoever comes next
 * says at the output what is missing.
 */
export async function writableTypes(sequelize: Sequelize, transaction?: Transaction): Promise<ReadonlySet<FileTypeName>> {
  const workers = await sequelize.query<{ writes: string[] }>(`SELECT writes FROM workers w WHERE NOT ${IS_DRAINED}`, {
    type: QueryTypes.SELECT,
    ...(transaction ? { transaction } : {}),
  });
  return new Set(FILE_TYPE_NAMES.filter((type) => !needsPrograms(type) || workers.every(({ writes }) => writes.includes(type))));
}
