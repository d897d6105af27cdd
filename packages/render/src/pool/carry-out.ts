import sharp from 'sharp';
import { allWeighings, type MasterFacts, type Weighing } from '@rundle/core';
import { checkWatermark } from '../mark/draw';
import { makeProxy, smallPicture } from '../proxy';
import { readFacts } from '../read/facts';
import { wholeProblem } from '../read/whole';
import { renderMaster } from '../render-master';
import { lookAtMaster } from '../see/look-at-master';
import { callLibraries } from '../types/libraries';
import { weighFine, weighSmall } from '../weigh';
import type { Done, Progress, Task } from './messages';

// One picture per thread: several threads share the cores, and a cache would only hold what is not needed again.
sharp.concurrency(1);
sharp.cache(false);
callLibraries();

/** Does one task in this thread, to its end. @throws ProblemError */
export async function carryOut(task: Task, send: (progress: Progress) => void, stop: AbortSignal): Promise<Done> {
  switch (task.kind) {
    case 'facts':
      return readAll(task);
    case 'weigh':
      return weighAll(task);
    case 'render':
      await renderMaster(
        task.job,
        (id, stage) => send({ kind: 'stage', id, stage }),
        (result) => send({ kind: 'result', result }),
        stop,
      );
      return null;
    case 'salience':
      return lookAtMaster(task.path, task.facts);
    case 'watermark':
      await checkWatermark(task.watermark);
      return null;
    case 'whole':
      return wholeProblem(task.path);
    case 'warm':
      return null; // nothing to do: the thread is loaded now
  }
}

async function readAll({ path, proxyTo, page }: Extract<Task, { kind: 'facts' }>): Promise<MasterFacts> {
  const facts = await readFacts(path, page);
  const seen = proxyTo === null ? {} : await makeProxy(path, facts, proxyTo);
  return { ...facts, ...seen };
}

async function weighAll({ path, facts, how }: Extract<Task, { kind: 'weigh' }>): Promise<Weighing[]> {
  const known = how.small ? await weighSmall((await smallPicture(path, facts)).raster) : facts.weighings;
  return how.fine ? allWeighings(known, await weighFine(path, facts, how.withAvif)) : known;
}
