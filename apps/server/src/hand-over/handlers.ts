import { createHash } from 'node:crypto';
import { DeliveryContent, FILE_TYPES, layOut, typeOfName } from '@rundle/core';
import { doneOutputView, openAsMade, type SetRow } from '@rundle/store';
import type { Handlers } from '../http/handlers';
import { sendZip, type ZipRow } from '../deliveries/zip';
import { notFound, requestProblem } from '../http/problem';
import { sendOpened } from '../http/send-opened';
import { sharedTarget } from '../runs/targets';
import { goneWith } from '../samples/tasks';
import type { Services } from '../services';
import { findSet } from '../sets/find';
import { OutputThumbnails } from './output-thumbnails';
import { asMade } from './standing-outputs';

export function handOverHandlers(services: Services) {
  const { database, files, threads } = services;
  const thumbnails = new OutputThumbnails(services);
  return {
    listOutputs: async ({ setId }) => {
      const set = await findSet(database, setId);
      const outputs = await threads.outputs(set.id);
      return {
        path: pathOf(set),
        outputs: outputs.map((row) => {
          const { presetTitle, masterName, masterBytes, file } = row;
          return { ...doneOutputView(row), presetTitle, masterName, masterBytes, file };
        }),
      };
    },

    getRemovedOutputs: async ({ setId }) => {
      await findSet(database, setId);
      return threads.ask({ kind: 'removed-outputs', setId, takesAway: false });
    },

    takeAwayRemovedOutputs: ({ setId }) => threads.ask({ kind: 'removed-outputs', setId, takesAway: true }),

    getZip: async ({ setId, request, response }) => {
      const set = await findSet(database, setId);
      const outputs = asMade(await threads.outputs(set.id));
      if (outputs.length === 0) throw requestProblem('nothing-there', 'Nothing has come out yet. Run the set first.');
      const rows = layOut(outputs, DeliveryContent.parse({})).map(({ path, file }): ZipRow => {
        const { id: outputId, target, folder, fileName, bytes, content, mark } = file;
        return { path, outputId, target, folder, fileName, bytes: bytes ?? 0, sha256: content ?? '', mark };
      });
      const tag = createHash('sha256')
        .update(JSON.stringify(rows.map(({ path, bytes, sha256 }) => [path, bytes, sha256])))
        .digest('hex')
        .slice(0, 32);
      const about = { title: set.title, at: set.createdAt, tag };
      await sendZip(rows, { outputs: files.outputs, made: '' }, about, { request, response });
    },

    getOutputFile: async ({ outputId, request, response }) => {
      const output = await database.outputs.findByPk(outputId);
      if (output?.state !== 'done') throw notFound('output');
      const file = await openAsMade(files.outputs, output);
      if (!file) throw notFound('file');
      const type = typeOfName(output.fileName);
      response.setHeader('Cache-Control', 'private, no-cache');
      response.type(type ? FILE_TYPES[type].mediaType : 'application/octet-stream');
      await sendOpened(request, response, file);
    },

    getOutputThumbnail: async ({ outputId, response }) => {
      const output = await database.outputs.findByPk(outputId);
      if (output?.state !== 'done') throw notFound('output');
      const small = await thumbnails.of(output, goneWith(response).signal);
      if (response.destroyed) return;
      // Another content is another output: it never changes.
      response.setHeader('Cache-Control', 'private, max-age=31536000, immutable');
      response.type('image/jpeg').end(small);
    },
  } satisfies Partial<Handlers>;

  /** Where files of a set are by now; null: nowhere yet, or in the folders of the masters. */
  function pathOf(set: SetRow): string | null {
    const target = set.place.kind === 'own' ? set.target : sharedTarget(set);
    return target === null ? null : files.outputs.pathOf(target);
  }
}
