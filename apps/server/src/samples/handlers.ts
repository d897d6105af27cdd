import { SAMPLE_HEADER, type SampleFacts } from '@rundle/core';
import type { Handlers } from '../http/handlers';
import type { Services } from '../services';
import { keptMeasure } from './measured';
import { goneWith, NO_LOOK, tasksOf } from './tasks';

export function sampleHandlers(services: Services) {
  const { database, samplers } = services;
  const withTask = tasksOf(services);
  return {
    getSample: async ({ masterId, body, response }) => {
      const gone = goneWith(response);
      const { upTo, view, overlay, judged } = body;
      const made = await withTask(masterId, body.preset, async (found) => {
        const task = { ...found, upTo, view, overlay, judged };
        if (body.whole) task.preset = { ...task.preset, size: { ...task.preset.size, fit: 'original' } };
        if (body.finished) return samplers.finish(task, gone.signal);
        return { ...(await samplers.look(task, gone.signal)), bytes: null, warnings: [] };
      });
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
      const { signal } = goneWith(response);
      return withTask(masterId, { ...body, mark: null }, (task) => samplers.fields({ ...task, ...NO_LOOK }, signal));
    },
    measureOutput: async ({ masterId, body, response }) => {
      const gone = goneWith(response);
      const { preset, judged } = body;
      return withTask(masterId, preset, (found) => {
        const task = { ...found, ...NO_LOOK, judged };
        return keptMeasure(database.sequelize, task, preset.mark?.watermark ?? null, () => samplers.measure(task, gone.signal));
      });
    },
  } satisfies Partial<Handlers>;
}
