import type { Handlers } from '../http/handlers';
import type { Services } from '../services';
import { findSet } from '../sets/find';

export function eventHandlers(services: Services) {
  return {
    setEvents: async ({ setId, response }) => {
      await findSet(services.database, setId);
      services.hub.add(setId, response);
    },
  } satisfies Partial<Handlers>;
}
