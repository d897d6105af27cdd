import { isWithin } from '@rundle/place';
import { resolve } from 'node:path';
import type { Handlers } from '../http/handlers';
import { requestProblem } from '../http/problem';
import type { Services } from '../services';

export function backupHandlers({ backups, config }: Services) {
  return {
    getBackups: () => backups.view(),

    changeBackupPlan: async ({ body }) => {
      if (body.folder !== null) refuseForbidden(body.folder);
      if (body.isOn && body.folder === null) throw requestProblem('no-place', 'Choose the folder for the backups first.');
      await backups.keepPlan(body);
      return backups.view();
    },

    makeBackup: async () => {
      const { folder, sealKey } = await backups.plan();
      if (folder === null) throw requestProblem('no-place', 'Choose the folder for the backups first.');
      refuseForbidden(folder);
      backups.make(folder, sealKey);
      return backups.view();
    },
  } satisfies Partial<Handlers>;

  function refuseForbidden(folder: string): void {
    const path = resolve(folder);
    if (isWithin(path, config.data) || isWithin(config.data, path))
      throw requestProblem(
        'no-place',
        `${folder} is the data folder itself, or holds it: a backup belongs elsewhere, best on another disk.`,
      );
    if (config.writeRoots.some((root) => isWithin(path, root))) return;
    throw requestProblem(
      'no-place',
      `Rundle may not write to ${folder}. Choose a folder below those that it may write to, or name it where Rundle is started (RUNDLE_WRITE_ROOTS).`,
    );
  }
}
