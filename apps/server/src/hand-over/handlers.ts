import { pipeline } from 'node:stream/promises';
import { FILE_TYPES, fileSafe, joinPath } from '@rundle/core';
import { type OpenFile, type Outputs, doneOutputView, type SetRow } from '@rundle/store';
import { ZipFile } from 'yazl';
import type { Handlers } from '../http/handlers';
import type { Services } from '../services';
import { notFound, requestProblem } from '../http/problem';
import { sendOpened } from '../http/send-opened';
import { sharedTarget } from '../runs/plan-set';
import { findSet } from '../sets/find';
import { type NewestOutput, newestOutputs } from './newest-outputs';

export function handOverHandlers({ database, files }: Services) {
  return {
    listOutputs: async ({ setId }) => {
      const set = await findSet(database, setId);
      const outputs = await newestOutputs(database, set.id);
      return {
        path: pathOf(set),
        outputs: outputs.map((row) => {
          const { presetTitle, masterName, masterBytes } = row;
          return { ...doneOutputView(row), presetTitle, masterName, masterBytes };
        }),
      };
    },

    getZip: async ({ setId, response }) => {
      const set = await findSet(database, setId);
      const outputs = await newestOutputs(database, set.id);
      if (outputs.length === 0) throw requestProblem('nothing-there', 'Nothing has come out yet. Run the set first.');
      const zip = new ZipFile();
      for (const output of outputs) await addFile(zip, files.outputs, output);
      const size = await new Promise<number>((resolve) => zip.end({ forceZip64Format: false, comment: '' }, resolve as () => void));
      response.setHeader('Content-Type', 'application/zip');
      if (size > 0) response.setHeader('Content-Length', size);
      response.attachment(`${fileSafe(set.title)}.zip`);
      await pipeline(zip.outputStream, response).catch((error: unknown) => {
        if (!response.destroyed) throw error; // otherwise the client disconnected half-way
      });
    },

    getOutputFile: async ({ outputId, request, response }) => {
      const output = await database.outputs.findByPk(outputId);
      if (output?.state !== 'done') throw notFound('output');
      const file = await files.outputs.open(output);
      if (!file) throw notFound('file');
      const extension = output.fileName.split('.').at(-1);
      const type = Object.values(FILE_TYPES).find((known) => known.extension === extension);
      response.setHeader('Cache-Control', 'private, no-cache');
      response.type(type?.mediaType ?? 'application/octet-stream');
      await sendOpened(request, response, file);
    },
  } satisfies Partial<Handlers>;

  /** Where files of a set are by now; null: nowhere yet, or in the folders of the masters. */
  function pathOf(set: SetRow): string | null {
    const target = set.place.kind === 'own' ? set.target : sharedTarget(set);
    return target === null ? null : files.outputs.pathOf(target);
  }
}

/**
 * JPEGs do not get smaller in a ZIP: they are stored as they are, so that the length is known before the first byte. Each file is
 * opened when its turn comes: thousands at a time would be too many.
 */
async function addFile(zip: ZipFile, outputs: Outputs, output: NewestOutput): Promise<void> {
  const path = joinPath(output.folder, output.fileName);
  const found = await outputs.open(output);
  if (!found)
    throw requestProblem('output-missing', `${path} is no longer in the folder of outputs. Run the set again, then fetch the ZIP.`);
  const { bytes, modified } = found;
  await found.close();
  zip.addReadStreamLazy(path, { compress: false, size: bytes, mtime: modified }, (give) => {
    const open = async (): Promise<OpenFile> => {
      const file = await outputs.open(output);
      if (!file) throw new Error(`${path} has vanished from the folder of outputs.`);
      return file;
    };
    open().then(
      (file) => give(null, file.read()),
      (error: unknown) => give(error, null as never),
    );
  });
}
