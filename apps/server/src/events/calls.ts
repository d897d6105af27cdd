import type { Api } from '../http/api';
import type { Services } from '../services';
import { findSet, SetParams } from '../sets/find';

export function addEventCalls(api: Api, services: Services): void {
  api.add(
    {
      ...{ method: 'get', path: '/api/sets/{setId}/events', params: SetParams, media: { answer: 'text/event-stream' } },
      summary: 'Changes of a set as server-sent events, each a SetEvent',
    },
    async ({ params, response }) => {
      await findSet(services.database, params.setId);
      services.hub.add(params.setId, response);
    },
  );
}
