import { join } from 'node:path';
import { type Problem, ProblemError } from '@rundle/core';
import { type OpenFile, openOnce } from '@rundle/place';
import { deliveryFolder, type DeliveryFileRow } from '@rundle/store';
import type { Job } from './job';

/** What is said of a file that is not what it was when the delivery was begun. */
export const fileChanged = ({ path, outputId }: DeliveryFileRow): Problem => ({
  code: 'file-changed',
  file: path,
  message:
    outputId === null
      ? `${path} was removed from the cache of Rundle. Go on, and it is made again.`
      : `${path} has been changed or removed since it was made. Run the set again, then deliver again.`,
});

/**
 * Does something with the path of a file that goes out now. A run may have replaced it since the delivery was checked: then it does not go. It is
 * held open meanwhile, so that what was checked is what goes.
 * @throws ProblemError `file-changed`
 */
export async function withSource<T>(job: Job, row: DeliveryFileRow, act: (path: string) => Promise<T>): Promise<T> {
  const opened = await openSource(job, row);
  try {
    return await act(await opened.path());
  } finally {
    await opened.close();
  }
}

/** @throws ProblemError `file-changed` */
export async function openSource({ context }: Job, row: DeliveryFileRow): Promise<OpenFile> {
  const { outputId, target, folder, fileName, path, deliveryId, sha256 } = row;
  const opened =
    outputId === null
      ? await openOnce(join(deliveryFolder(context.data, deliveryId), path)).then(
          (found) => found.opened,
          () => null,
        )
      : await context.files.outputs.open({ target: target!, folder: folder!, fileName: fileName! });
  if (opened && (await opened.sha256()) === sha256) return opened;
  await opened?.close();
  throw new ProblemError(fileChanged(row));
}
