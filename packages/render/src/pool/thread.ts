import sharp from 'sharp';
import { type MasterFacts, problemOf, type Problem } from '@rundle/core';
import { checkWatermark } from '../mark/draw';
import { makeProxy } from '../proxy';
import { readFacts } from '../read/facts';
import { renderMaster } from '../render-master';
import type { Progress, Task } from './messages';

// One picture per thread: several threads share the cores, and a cache would only hold what is not needed again.
sharp.concurrency(1);
sharp.cache(false);

/** Runs one task; errors come back as data, since an error object loses its fields between threads. */
export default async function run(task: Task): Promise<{ ok: true; value: MasterFacts | null } | { ok: false; problem: Problem }> {
  try {
    return { ok: true, value: await work(task) };
  } catch (error) {
    return { ok: false, problem: problemOf(error) };
  }
}

async function work(task: Task): Promise<MasterFacts | null> {
  switch (task.kind) {
    case 'facts':
      return readAll(task);
    case 'render':
      return render(task);
    case 'watermark':
      await checkWatermark(task.watermark);
      return null;
  }
}

async function readAll({ path, proxyTo }: Extract<Task, { kind: 'facts' }>): Promise<MasterFacts> {
  const facts = await readFacts(path);
  const seen = proxyTo === null ? {} : await makeProxy(path, facts, proxyTo);
  return { ...facts, ...seen };
}

async function render({ job, port }: Extract<Task, { kind: 'render' }>): Promise<null> {
  const stop = new AbortController();
  port.on('message', () => stop.abort());
  const send = (progress: Progress) => port.postMessage(progress);
  await renderMaster(
    job,
    (id) => send({ kind: 'started', id }),
    (result) => send({ kind: 'result', result }),
    stop.signal,
  );
  port.close();
  return null;
}
