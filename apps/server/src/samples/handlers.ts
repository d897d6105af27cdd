import { type CarriedSize, factsOfSample, makingBy, SAMPLE_HEADER } from '@rundle/core';
import type { Handlers } from '../http/handlers';
import type { Services } from '../services';
import { keptMeasure } from './measured';
import { goneWith, NO_LOOK, tasksOf } from './tasks';

/** All of a picture, whatever is used of it; at the size of the master only where the preset would cut it to fill. */
function wholeSize(size: CarriedSize): CarriedSize {
  const whole: CarriedSize = { ...size, fit: size.fit === 'cover' ? 'original' : size.fit, ratio: null };
  delete whole.view;
  return whole;
}

export function sampleHandlers(services: Services) {
  const { database, samplers } = services;
  const withTask = tasksOf(services);
  return {
    getSample: async ({ masterId, body, response }) => {
      const gone = goneWith(response);
      const { upTo, view, overlay, judged } = body;
      const made = await withTask(masterId, body, async (found) => {
        const task = { ...found, upTo, view, overlay, judged };
        const { preset } = task.making;
        if (body.whole) task.making = makingBy(task.facts, { ...preset, size: wholeSize(preset.size) });
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
      return withTask(masterId, { preset: { ...body, mark: null } }, (task) => samplers.fields({ ...task, ...NO_LOOK }, signal));
    },
    measureOutput: async ({ masterId, body, response }) => {
      const gone = goneWith(response);
      const { preset, judged } = body;
      return withTask(masterId, body, (found) => {
        const task = { ...found, ...NO_LOOK, judged };
        return keptMeasure(database.sequelize, task, preset.mark?.watermark ?? null, () => samplers.measure(task, gone.signal));
      });
    },
  } satisfies Partial<Handlers>;
}
