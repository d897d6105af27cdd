import type { MessagePort } from 'node:worker_threads';
import { type Problem, problemOf } from '@rundle/core';
import { useExifTool } from '../read/exiftool';
import { carryOut } from './carry-out';
import { LentExifTool } from './lent-exiftool';
import type { Done, Order, Task } from './messages';

/** Runs one task; errors come back as data, since an error object loses its fields between threads. */
export default async function run({
  task,
  port,
}: {
  task: Task;
  port: MessagePort;
}): Promise<{ ok: true; value: Done } | { ok: false; problem: Problem }> {
  useExifTool(new LentExifTool(port));
  const stop = new AbortController();
  port.on('message', (order: Order) => order.kind === 'stop' && stop.abort());
  try {
    return { ok: true, value: await carryOut(task, (progress) => port.postMessage(progress), stop.signal) };
  } catch (error) {
    return { ok: false, problem: problemOf(error) };
  } finally {
    port.close();
  }
}
