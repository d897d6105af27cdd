import { createReadStream } from 'node:fs';
import { stat } from 'node:fs/promises';
import { join } from 'node:path';
import { pipeline } from 'node:stream/promises';
import { fileSafe, HandOverView, Id, joinPath } from '@rundle/core';
import { outputView } from '@rundle/store';
import { ZipFile } from 'yazl';
import * as z from 'zod';
import type { Api } from '../http/api';
import type { Services } from '../services';
import { HttpProblem, notFound } from '../http/problem';
import { sendWhole } from '../http/send-whole';
import { findMaster, findSet, SetParams } from '../sets/find';
import { newestOutputs } from './newest-outputs';

export function addHandOverCalls(api: Api, { database, storage }: Services): void {
  api.add(
    { method: 'get', path: '/api/sets/{setId}/outputs', summary: 'What can be handed over', params: SetParams, answer: HandOverView },
    async ({ params }) => {
      const set = await findSet(database, params.setId);
      const outputs = await newestOutputs(database, set.id);
      return {
        path: storage.outputs(set),
        outputs: outputs.map((row) => {
          const { presetTitle, masterName, masterBytes } = row;
          return { ...outputView(row), presetTitle, masterName, masterBytes };
        }),
      };
    },
  );

  api.add(
    {
      method: 'get',
      path: '/api/sets/{setId}/outputs.zip',
      summary: 'All outputs, a folder per preset',
      params: SetParams,
      media: { answer: 'application/zip' },
    },
    async ({ params, response }) => {
      const set = await findSet(database, params.setId);
      const outputs = await newestOutputs(database, set.id);
      if (outputs.length === 0) throw new HttpProblem(409, 'nothing-there', 'Nothing has come out yet. Run the set first.');
      const zip = new ZipFile();
      for (const { folder, fileName } of outputs) await addFile(zip, storage.outputs(set), joinPath(folder, fileName));
      const size = await new Promise<number>((resolve) => zip.end({ forceZip64Format: false, comment: '' }, resolve as () => void));
      const name = fileSafe(set.title);
      response.setHeader('Content-Type', 'application/zip');
      if (size > 0) response.setHeader('Content-Length', size);
      response.attachment(`${name}.zip`);
      await pipeline(zip.outputStream, response);
    },
  );

  const OutputParams = z.object({ outputId: Id });
  api.add(
    { method: 'get', path: '/api/outputs/{outputId}/file', summary: 'One output', params: OutputParams, media: { answer: 'image/*' } },
    async ({ params, response }) => {
      const output = await database.outputs.findByPk(params.outputId);
      if (!output || output.state !== 'done') throw notFound('output');
      const master = await findMaster(database, output.masterId);
      const set = await findSet(database, master.setId);
      response.setHeader('Cache-Control', 'private, no-cache');
      await sendWhole(response, join(storage.outputs(set), output.folder, output.fileName));
    },
  );
}

/** JPEGs do not get smaller in a ZIP: they are stored as they are, so that the length is known before the first byte. */
async function addFile(zip: ZipFile, target: string, path: string): Promise<void> {
  const file = await stat(join(target, path)).catch(() => null);
  if (!file)
    throw new HttpProblem(409, 'output-missing', `${path} is no longer in the folder of outputs. Run the set again, then fetch the ZIP.`);
  zip.addReadStreamLazy(path, { compress: false, size: file.size, mtime: file.mtime }, (give) =>
    give(null, createReadStream(join(target, path))),
  );
}
