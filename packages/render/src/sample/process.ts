import { readFile } from 'node:fs/promises';
import { setPriority, tmpdir } from 'node:os';
import { type FeedTrip, type FileFields, type Measured, type Problem, problemOf, type Watermark } from '@rundle/core';
import sharp from 'sharp';
import { thumbnailOf } from '../deliver/look-at';
import { endExifTool } from '../read/exiftool';
import { wholeProblem } from '../read/whole';
import { askForShortestTables } from '../types/jpeg/turbo';
import { callLibraries } from '../types/libraries';
import type { FeedDoor } from './feed-trip';
import { fieldsOfOutput } from './fields';
import { markPreview } from './mark-preview';
import type { FinishedSample, FoundFile, Sample, SampleTask } from './sample';
import { Sampler } from './sampler';

/** What the process is asked for: a look, or the whole file. */
export type SampleOrder =
  | { kind: 'look'; id: number; task: SampleTask; found: FoundFile | null }
  | { kind: 'finish'; id: number; task: SampleTask }
  | { kind: 'measure'; id: number; task: SampleTask }
  | { kind: 'feed'; id: number; task: SampleTask; door: FeedDoor; tripId: string; folder: string }
  | { kind: 'mark'; id: number; watermark: Watermark }
  | { kind: 'thumbnail'; id: number; path: string; longEdge: number }
  | { kind: 'fields'; id: number; task: SampleTask }
  | { kind: 'whole'; id: number; path: string }
  | { kind: 'drop'; id: number };

/** What it says by the way: that an order is being carried out; that all of them are, and what it then holds, bytes. */
export type SampleNotice = { kind: 'begun'; id: number } | { kind: 'resting'; resident: number };

export type SampleAnswer =
  | { id: number; kind: 'look'; sample: Sample }
  | { id: number; kind: 'finish'; sample: FinishedSample }
  | { id: number; kind: 'measure'; measured: Measured }
  | { id: number; kind: 'feed'; trip: FeedTrip }
  | { id: number; kind: 'mark'; png: Uint8Array }
  | { id: number; kind: 'thumbnail'; jpeg: Uint8Array }
  | { id: number; kind: 'fields'; fields: FileFields }
  | { id: number; kind: 'whole'; problem: Problem | null }
  | { id: number; kind: 'failed'; problem: Problem }
  | { id: number; kind: 'dropped' };

/*
 * A process of its own, so that a picture that brings the decoder down takes nobody's requests with it. There are two: one for looks, which somebody
 * waits for, and one for whole files, which stands back behind it.
 */
const {
  RUNDLE_SAMPLE_FOLDER = tmpdir(),
  RUNDLE_SAMPLE_BYTES = '200000000',
  RUNDLE_SAMPLE_NICE = '0',
  RUNDLE_SAMPLE_THREADS = '1',
} = process.env;
setPriority(Number(RUNDLE_SAMPLE_NICE));
sharp.concurrency(Number(RUNDLE_SAMPLE_THREADS));
sharp.cache(false);
askForShortestTables();
callLibraries();
const sampler = new Sampler(Number(RUNDLE_SAMPLE_BYTES), RUNDLE_SAMPLE_FOLDER);

const waiting: Exclude<SampleOrder, { kind: 'drop' }>[] = [];
const controllers = new Map<number, AbortController>();
let isBusy = false;

process.on('message', (order: SampleOrder) => {
  if (order.kind === 'drop') {
    controllers.get(order.id)?.abort();
    return;
  }
  controllers.set(order.id, new AbortController());
  waiting.push(order);
  void workOff();
});
process.once('disconnect', () => void end());
process.once('SIGTERM', () => void end());

async function workOff(): Promise<void> {
  if (isBusy) return;
  isBusy = true;
  for (let order = waiting.shift(); order; order = waiting.shift()) {
    // What was dropped while an earlier picture was made is known only after a turn of the event loop.
    await new Promise(setImmediate);
    process.send?.({ kind: 'begun', id: order.id } satisfies SampleNotice);
    const answer = await answerTo(order, controllers.get(order.id)!.signal);
    controllers.delete(order.id);
    process.send?.(answer);
  }
  isBusy = false;
  process.send?.({ kind: 'resting', resident: process.memoryUsage.rss() } satisfies SampleNotice);
}

async function answerTo(order: Exclude<SampleOrder, { kind: 'drop' }>, signal: AbortSignal): Promise<SampleAnswer> {
  const { id, kind } = order;
  if (signal.aborted) return { id, kind: 'dropped' };
  try {
    if (kind === 'mark') return { id, kind, png: (await markPreview(order.watermark)).png };
    if (kind === 'thumbnail') return { id, kind, jpeg: await thumbnailOf(await readFile(order.path), order.longEdge) };
    if (kind === 'whole') return { id, kind, problem: await wholeProblem(order.path) };
    if (kind === 'fields') return { id, kind, fields: await fieldsOfOutput(order.task) };
    if (kind === 'measure') return { id, kind, measured: await sampler.measure(order.task, signal) };
    if (kind === 'feed') {
      const { task, door, tripId, folder } = order;
      return { id, kind, trip: await sampler.throughFeed(task, door, tripId, folder, signal) };
    }
    if (kind === 'look') return { id, kind, sample: await sampler.look(order.task, order.found) };
    return { id, kind, sample: await sampler.finish(order.task, signal) };
  } catch (error) {
    return signal.aborted ? { id, kind: 'dropped' } : { id, kind: 'failed', problem: problemOf(error, 'render-failed') };
  }
}

async function end(): Promise<void> {
  for (const controller of controllers.values()) controller.abort();
  await sampler.close();
  await endExifTool();
  process.exit(0);
}
