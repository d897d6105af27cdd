import { factsOfSample, makingBy, SAMPLE_HEADER } from '@rundle/core';
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
        const { preset } = task.making;
        if (body.whole) task.making = makingBy(task.facts, { ...preset, size: { ...preset.size, fit: 'original' } });
        if (!body.finished) {
          const seen = await samplers.look(task, gone.signal);
          return { png: seen.png, facts: factsOfSample(seen) };
        }
        const whole = await samplers.finish(task, gone.signal);
        return { png: whole.png, facts: factsOfSample(whole, whole) };
      });
      if (response.destroyed) return;
      response.setHeader(SAMPLE_HEADER, encodeURIComponent(JSON.stringify(made.facts)));
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
