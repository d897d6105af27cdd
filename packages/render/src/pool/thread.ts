import type { MessagePort } from 'node:worker_threads';
import sharp from 'sharp';
import { allWeighings, type MasterFacts, problemOf, type Problem, type Weighing } from '@rundle/core';
import { checkWatermark } from '../mark/draw';
import { makeProxy, smallPicture } from '../proxy';
import { useExifTool } from '../read/exiftool';
import { readFacts } from '../read/facts';
import { renderMaster } from '../render-master';
import { weighFine, weighSmall } from '../weigh';
import { LentExifTool } from './lent-exiftool';
import type { Done, Order, Progress, Task } from './messages';

// One picture per thread: several threads share the cores, and a cache would only hold what is not needed again.
sharp.concurrency(1);
sharp.cache(false);

/** Runs one task; errors come back as data, since an error object loses its fields between threads. */
export default async function run({
  task,
  port,
}: {
  task: Task;
  port: MessagePort;
}): Promise<{ ok: true; value: Done } | { ok: false; problem: Problem }> {
  useExifTool(new LentExifTool(port));
  try {
    return { ok: true, value: await work(task, port) };
  } catch (error) {
    return { ok: false, problem: problemOf(error) };
  } finally {
    port.close();
  }
}

async function work(task: Task, port: MessagePort): Promise<Done> {
  switch (task.kind) {
    case 'facts':
      return readAll(task);
    case 'weigh':
      return weighAll(task);
    case 'render':
      return render(task, port);
    case 'watermark':
      await checkWatermark(task.watermark);
      return null;
    case 'warm':
      return null; // nothing to do: the thread is loaded now
  }
}

async function readAll({ path, proxyTo }: Extract<Task, { kind: 'facts' }>): Promise<MasterFacts> {
  const facts = await readFacts(path);
  const seen = proxyTo === null ? {} : await makeProxy(path, facts, proxyTo);
  return { ...facts, ...seen };
}

async function weighAll({ path, facts, small }: Extract<Task, { kind: 'weigh' }>): Promise<Weighing[]> {
  const known = small ? await weighSmall((await smallPicture(path, facts)).raster) : facts.weighings;
  return allWeighings(known, await weighFine(path, facts));
}

async function render({ job }: Extract<Task, { kind: 'render' }>, port: MessagePort): Promise<null> {
  const stop = new AbortController();
  port.on('message', (order: Order) => order.kind === 'stop' && stop.abort());
  const send = (progress: Progress) => port.postMessage(progress);
  await renderMaster(
    job,
    (id, stage) => send({ kind: 'stage', id, stage }),
    (result) => send({ kind: 'result', result }),
    stop.signal,
  );
  return null;
}
