import {
  factsWithOverrides,
  MasterFacts,
  presetWithOverrides,
  type Preset,
  type Problem,
  SAMPLE_HEADER,
  type SampleFacts,
  StudioDetails,
  type Watermark,
  withOwn,
} from '@rundle/core';
import { drawableMark, overridesOf } from '@rundle/store';
import type { Response } from 'express';
import type { Handlers } from '../http/handlers';
import { notFound, requestProblem } from '../http/problem';
import type { Services } from '../services';
import { findMaster } from '../sets/find';
import { keptMeasure } from './measured';
import { watermarkOf } from '../watermarks/named';

export function sampleHandlers({ database, files, samplers }: Services) {
  return {
    getSample: async ({ masterId, body, response }) => {
      const gone = goneWith(response);
      const { upTo, view, overlay, judged } = body;
      const task = { ...(await taskOf(masterId, body.preset)), upTo, view, overlay, judged };
      if (body.whole) task.preset = { ...task.preset, size: { ...task.preset.size, fit: 'original' } };
      const made = body.finished
        ? await samplers.finish(task, gone.signal)
        : { ...(await samplers.look(task, gone.signal)), bytes: null, warnings: [] };
      if (response.destroyed) return;
      const { width, height, output, shown, quality, expected, converted, mark, cut, spots, halo, gamut, judgement, bytes, warnings } =
        made;
      const told: SampleFacts = {
        width,
        height,
        output,
        shown,
        quality,
        expected,
        converted,
        mark,
        cut,
        spots,
        halo,
        gamut,
        judgement,
        bytes,
        warnings,
      };
      response.setHeader(SAMPLE_HEADER, encodeURIComponent(JSON.stringify(told)));
      response.setHeader('Cache-Control', 'no-store');
      response.type('image/png').end(made.png);
    },

    listFields: async ({ masterId, body, response }) => {
      const task = await taskOf(masterId, { ...body, mark: null });
      return samplers.fields({ ...task, ...NO_LOOK }, goneWith(response).signal);
    },
    measureOutput: async ({ masterId, body, response }) => {
      const gone = goneWith(response);
      const { preset, judged } = body;
      const task = { ...(await taskOf(masterId, preset)), ...NO_LOOK, judged };
      return keptMeasure(database.sequelize, task, preset.mark?.watermark ?? null, () => samplers.measure(task, gone.signal));
    },
  } satisfies Partial<Handlers>;

  /** The master with what was decided about it, and the preset as it is carried out for it. */
  async function taskOf(masterId: string, preset: Preset) {
    const master = await findMaster(database, masterId);
    const { facts, sha256, state, setId } = master;
    if (state !== 'ready' || !facts || !sha256) throw notFound('picture');
    const [set, studio, watermark] = await Promise.all([database.sets.findByPk(setId), database.studio.findByPk(1), namedMark(preset)]);
    const overrides = overridesOf(master);
    return {
      master: await broughtIn(master),
      content: sha256,
      facts: factsWithOverrides(MasterFacts.parse(facts), overrides),
      studio: withOwn(StudioDetails.parse(studio?.details ?? {}), StudioDetails.parse(set?.rights ?? {})),
      preset: presetWithOverrides(preset, overrides),
      watermark,
    };
  }

  async function namedMark({ mark }: Preset): Promise<Watermark | null> {
    if (!mark) return null;
    const found = await watermarkOf(database, mark.watermark);
    if ('code' in found) throw cannot(found);
    return drawableMark(found);
  }

  async function broughtIn(master: Parameters<typeof files.masters.bring>[0]): Promise<string> {
    return files.masters.bring(master).catch((error: unknown): never => {
      if (error instanceof Error && 'problem' in error) throw cannot(error.problem as Problem);
      throw error;
    });
  }
}

/** A page that has asked for something else meanwhile has ended its call. */
function goneWith(response: Response): AbortController {
  const gone = new AbortController();
  response.once('close', () => gone.abort());
  return gone;
}

/** Where nothing is shown. */
const NO_LOOK = { upTo: 'file', view: { kind: 'whole', within: { width: 1, height: 1 } }, overlay: null, judged: false } as const;

const cannot = (problem: Problem) => requestProblem('no-sample', problem.message, [problem]);
