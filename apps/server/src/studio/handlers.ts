import { StudioDetails } from '@rundle/core';
import { notifyTopic } from '@rundle/store';
import type { Handlers } from '../http/handlers';
import type { Services } from '../services';

export function studioHandlers({ database: { sequelize, studio } }: Services) {
  return {
    getStudio: async () => StudioDetails.parse((await studio.findByPk(1))?.details ?? {}),

    changeStudio: async ({ body }) => {
      await studio.upsert({ id: 1, details: body });
      await notifyTopic(sequelize, 'studio');
      return body;
    },
  } satisfies Partial<Handlers>;
}
