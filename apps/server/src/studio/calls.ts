import { StudioDetails } from '@rundle/core';
import type { Api } from '../http/api';
import type { Services } from '../services';

export function addStudioCalls(api: Api, { database: { studio } }: Services): void {
  api.add(
    { method: 'get', path: '/api/studio', summary: 'The studio’s details, which fill missing rights', answer: StudioDetails },
    async () => StudioDetails.parse((await studio.findByPk(1))?.details ?? {}),
  );

  api.add(
    { method: 'put', path: '/api/studio', summary: 'Changes the studio’s details', body: StudioDetails, answer: StudioDetails },
    async ({ body }) => {
      await studio.upsert({ id: 1, details: body });
      return body;
    },
  );
}
