import { setTimeout as wait } from 'node:timers/promises';
import {
  carriedFacts,
  chosenPage,
  type Decisions,
  makingOf,
  MasterFacts,
  partPreset,
  type Preset,
  type Problem,
  type Salience,
  StudioDetails,
  type Watermark,
  withOwn,
} from '@rundle/core';
import { addMeasuring, type Database, drawableMark, type MasterPlace, decisionsOf, pageOf } from '@rundle/store';
import type { Response } from 'express';
import { notFound, requestProblem } from '../http/problem';
import type { Services } from '../services';
import { findMaster } from '../sets/find';
import { watermarkOf } from '../watermarks/named';
import type { NamedTask } from './samplers';

/** A task but for what is looked at. */
export type Task = Pick<NamedTask, 'master' | 'name' | 'content' | 'facts' | 'studio' | 'making' | 'watermark'>;

/** Which file of which preset is meant; and what is decided about the picture, where that is not what is kept. */
export interface Meant {
  preset: Preset;
  part?: string;
  decided?: Decisions | undefined;
}

/** Does something with what a preset is carried out on; its master is held open meanwhile. @throws HttpProblem */
export type WithTask = <T>(masterId: string, meant: Meant, act: (task: Task) => Promise<T>) => Promise<T>;

export function tasksOf({ database, files }: Pick<Services, 'database' | 'files'>): WithTask {
  return async (masterId, { preset, part = '', decided }, act) => {
    const { task, master } = await taskOf(masterId, partPreset(preset, part), decided);
    const { path, close } = await files.masters.bring(master).catch((error: unknown): never => {
      if (error instanceof Error && 'problem' in error) throw cannot(error.problem as Problem);
      throw error;
    });
    return act({ ...task, master: path }).finally(close);
  };

  /** The master with what was decided about it, and the preset as it is carried out for it. */
  async function taskOf(
    masterId: string,
    preset: Preset,
    decided?: Decisions,
  ): Promise<{ task: Omit<Task, 'master'>; master: MasterPlace }> {
    const master = await findMaster(database, masterId);
    const { facts, sha256, state, setId } = master;
    if (state !== 'ready' || !facts || !sha256) throw notFound('picture');
    const [set, studio, watermark] = await Promise.all([database.sets.findByPk(setId), database.studio.findByPk(1), namedMark(preset)]);
    const decisions = decided ?? decisionsOf(master);
    if (chosenPage(decisions.page) !== pageOf(master))
      throw requestProblem('no-sample', 'Another page of it is being read. Try again in a moment.');
    const known = carriedFacts(MasterFacts.parse(facts), decisions);
    const isOpen = makingOf(known, preset, null, decisions).cutBy === 'middle';
    const carried = isOpen ? { ...known, salience: await salienceOnceSeen(database, masterId) } : known;
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

/** How long a worker may take to look at a picture, and how often it is asked for, ms. */
const MOST_LOOKING = 30_000;
const LOOK_EVERY = 120;

/**
 * What draws the eye in a picture, once a worker has looked at it: before that nobody knows where a file of it would be cropped.
 * @throws HttpProblem 503 when it takes too long
 */
async function salienceOnceSeen(database: Database, masterId: string): Promise<Salience> {
  await addMeasuring(database.sequelize, 'see-master', [masterId]);
  for (const end = Date.now() + MOST_LOOKING; Date.now() < end; await wait(LOOK_EVERY)) {
    const { facts } = await findMaster(database, masterId);
    if (facts?.salience) return facts.salience;
  }
  throw requestProblem('no-sample', 'Where it is cropped is still being worked out. Try again in a moment.');
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
