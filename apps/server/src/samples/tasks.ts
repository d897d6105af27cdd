import { carriedFacts, makingOf, MasterFacts, type Preset, type Problem, StudioDetails, type Watermark, withOwn } from '@rundle/core';
import { drawableMark, type MasterPlace, decisionsOf } from '@rundle/store';
import type { Response } from 'express';
import { notFound, requestProblem } from '../http/problem';
import type { Services } from '../services';
import { findMaster } from '../sets/find';
import { watermarkOf } from '../watermarks/named';
import type { NamedTask } from './samplers';

/** A task but for what is looked at. */
export type Task = Pick<NamedTask, 'master' | 'name' | 'content' | 'facts' | 'studio' | 'making' | 'watermark'>;

/** Does something with what a preset is carried out on; its master is held open meanwhile. @throws HttpProblem */
export type WithTask = <T>(masterId: string, preset: Preset, act: (task: Task) => Promise<T>) => Promise<T>;

export function tasksOf({ database, files }: Pick<Services, 'database' | 'files'>): WithTask {
  return async (masterId, preset, act) => {
    const { task, master } = await taskOf(masterId, preset);
    const { path, close } = await files.masters.bring(master).catch((error: unknown): never => {
      if (error instanceof Error && 'problem' in error) throw cannot(error.problem as Problem);
      throw error;
    });
    return act({ ...task, master: path }).finally(close);
  };

  /** The master with what was decided about it, and the preset as it is carried out for it. */
  async function taskOf(masterId: string, preset: Preset): Promise<{ task: Omit<Task, 'master'>; master: MasterPlace }> {
    const master = await findMaster(database, masterId);
    const { facts, sha256, state, setId } = master;
    if (state !== 'ready' || !facts || !sha256) throw notFound('picture');
    const [set, studio, watermark] = await Promise.all([database.sets.findByPk(setId), database.studio.findByPk(1), namedMark(preset)]);
    const decisions = decisionsOf(master);
    const carried = carriedFacts(MasterFacts.parse(facts), decisions);
    const task = {
      name: master.fileName,
      content: sha256,
      facts: carried,
      studio: withOwn(StudioDetails.parse(studio?.details ?? {}), StudioDetails.parse(set?.rights ?? {})),
      making: makingOf(carried, preset, null, decisions),
      watermark,
    };
    return { task, master };
  }

  async function namedMark({ mark }: Preset): Promise<Watermark | null> {
    if (!mark) return null;
    const found = await watermarkOf(database, mark.watermark);
    if ('code' in found) throw cannot(found);
    return drawableMark(found);
  }
}

/** A page that has asked for something else meanwhile has ended its call. */
export function goneWith(response: Response): AbortController {
  const gone = new AbortController();
  response.once('close', () => gone.abort());
  return gone;
}

/** Where nothing is shown. */
export const NO_LOOK = { upTo: 'file', view: { kind: 'whole', within: { width: 1, height: 1 } }, overlay: null, judged: false } as const;

const cannot = (problem: Problem) => requestProblem('no-sample', problem.message, [problem]);
