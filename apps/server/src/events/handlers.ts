import type { Handlers } from '../http/handlers';
import { notFound } from '../http/problem';
import type { Services } from '../services';

export function eventHandlers({ hub }: Services) {
  return {
    events: ({ response }) => {
      hub.add(response);
      return Promise.resolve();
    },

    followSets: ({ streamId, body }) => {
      if (!hub.follow(streamId, body.setIds)) throw notFound('event stream');
      return Promise.resolve();
    },
  } satisfies Partial<Handlers>;
}
