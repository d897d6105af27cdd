import { join } from 'node:path';
import { type Problem, ProblemError } from '@rundle/core';
import { deliveryFolder, type DeliveryFileRow, sha256Of } from '@rundle/store';
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
 * Where a file lies that goes out now. A run may have replaced it since the delivery was checked: then it does not go.
 * @throws ProblemError `file-changed`
 */
export async function sourceOf({ context }: Job, row: DeliveryFileRow): Promise<string> {
  const { outputId, target, folder, fileName, path, deliveryId, sha256 } = row;
  const at =
    outputId === null
      ? join(deliveryFolder(context.data, deliveryId), path)
      : join(context.files.outputs.pathOf(target!)!, folder!, fileName!);
  if ((await sha256Of(at).catch(() => null)) !== sha256) throw new ProblemError(fileChanged(row));
  return at;
}
