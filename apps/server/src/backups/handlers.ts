import type { Handlers } from '../http/handlers';
import { requestProblem } from '../http/problem';
import type { Services } from '../services';

export function backupHandlers({ backups }: Services) {
  return {
    getBackups: () => backups.view(),

    changeBackupPlan: async ({ body }) => {
      if (body.folder !== null) await refuseForbidden(body.folder);
      if (body.isOn && body.folder === null) throw noFolder();
      await backups.keepPlan(body);
      return backups.view();
    },

    makeBackup: async () => {
      const { folder, sealKey } = await backups.plan();
      if (folder === null) throw noFolder();
      await refuseForbidden(folder);
      backups.make(folder, sealKey);
      return backups.view();
    },
  } satisfies Partial<Handlers>;

  async function refuseForbidden(folder: string): Promise<void> {
    const refusal = await backups.refusal(folder);
    if (refusal !== null) throw requestProblem('no-place', refusal);
  }
}

const noFolder = () => requestProblem('no-place', 'Choose the folder for the backups first.');
