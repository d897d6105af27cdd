import * as z from 'zod';
import { FILE_TYPE_NAMES, MASTER_FORMATS } from '../types/table';

/** What a worker can be at. */
export const WORK_KINDS = ['read', 'weigh', 'see', 'check', 'make', 'move'] as const;
export type WorkKind = (typeof WORK_KINDS)[number];

/** A program that reads and makes pictures, one at a time. */
export const WorkerView = z
  .object({
    id: z.string(),
    host: z.string(),
    seat: z.string().meta({ description: 'Its place on its machine, which the worker that follows it takes' }),
    since: z.iso.datetime().nullable().meta({ description: 'Since when its seat has been taken; null: it has not said' }),
    engine: z.int().nullable().meta({ description: 'The version of the engine that it makes files by; null: it has not said' }),
    beatSecondsAgo: z.number(),
    silent: z.boolean().meta({ description: 'Whether it has not been heard of for longer than it would be alive' }),
    drained: z.boolean().meta({ description: 'Whether its seat is drained: it finishes what it is at, and takes nothing new' }),
    work: z
      .object({
        kind: z.enum(WORK_KINDS),
        file: z.string().nullable().meta({ description: 'Name of the picture' }),
        setId: z.string().nullable(),
        setTitle: z.string().nullable(),
      })
      .nullable()
      .meta({ description: 'What it is at; null: nothing' }),
    busyMs: z.number().nullable().meta({ description: 'For how long, as it said last' }),
    done: z.int().meta({ description: 'Files that were made at its seat since then' }),
    failed: z.int(),
    perMinute: z.number().meta({ description: 'Files a minute, over the last five minutes' }),
    memoryBytes: z.number().nullable(),
    reads: z.array(z.enum(MASTER_FORMATS)).meta({ description: 'Types that it can read beside those that all can' }),
    writes: z.array(z.enum(FILE_TYPE_NAMES)).meta({ description: 'Types that it can write beside those that all can' }),
  })
  .meta({ id: 'Worker' });
export type WorkerView = z.infer<typeof WorkerView>;

/** Work of one kind that nobody has taken yet. */
export const WaitingWork = z
  .object({
    kind: z.enum(WORK_KINDS),
    pieces: z.int().meta({ description: 'Pictures' }),
    files: z.int().meta({ description: 'Files that are to be made of them' }),
    oldestSeconds: z.number().meta({ description: 'How long the oldest of it has been written down' }),
    paused: z.int().meta({ description: 'How many of the pictures belong to runs that are paused' }),
  })
  .meta({ id: 'WaitingWork' });
export type WaitingWork = z.infer<typeof WaitingWork>;

export const WorkersView = z
  .object({
    workers: z.array(WorkerView),
    waiting: z.array(WaitingWork),
    throughInSeconds: z
      .number()
      .nullable()
      .meta({ description: 'When the files that are to be made will be, from now; null: nobody makes any, or that is not known' }),
  })
  .meta({ id: 'Workers' });
export type WorkersView = z.infer<typeof WorkersView>;

export const WorkerChange = z.strictObject({ drained: z.boolean() }).meta({ id: 'WorkerChange' });
