import { join } from 'node:path';
import pLimit from 'p-limit';
import { fileSafe, fillRights, MasterFacts, sheetLayout, type SheetWish, StudioDetails, withOwn } from '@rundle/core';
import { decisionsOf, loadMasters, type MasterRecord, type SetRow } from '@rundle/store';
import type { SheetText } from '@rundle/render';
import type { Handlers } from '../http/handlers';
import { requestProblem } from '../http/problem';
import { asMade, type StandingOutput } from '../hand-over/standing-outputs';
import { goneWith } from '../samples/tasks';
import type { Services } from '../services';
import { findSet } from '../sets/find';
import { sendSheet, type SheetSource } from './sheet-child';

/** One at a time: each takes all cores that nobody else wants. */
const oneByOne = pLimit(1);

export function sheetHandlers(services: Services) {
  const { database, files, threads, sheetProgram, log } = services;

  async function sourcesOf(set: SetRow, { of, masterIds }: SheetWish): Promise<SheetSource[]> {
    const chosen = new Set(masterIds);
    const masters = (await loadMasters(database, set.id)).filter(({ id, choice, state }) =>
      chosen.size ? chosen.has(id) : choice !== 'out' && state === 'ready',
    );
    const studio = StudioDetails.parse((await database.studio.findByPk(1))?.details ?? {});
    const details = withOwn(studio, StudioDetails.parse(set.rights));
    if (of.kind === 'masters') return masters.map((master) => masterSource(master, details));
    const outputs = asMade(await threads.outputs(set.id)).filter(({ presetId, part }) => presetId === of.presetId && part === of.part);
    const byMaster = new Map(outputs.map((output) => [output.masterId, output]));
    return masters.flatMap((master) => {
      const output = byMaster.get(master.id);
      return output ? [outputSource(master, details, output)] : [];
    });
  }

  const masterSource = (master: MasterRecord, details: StudioDetails): SheetSource => ({
    name: master.fileName,
    open: async () => {
      if (!master.facts) return null;
      const { path, close } = await files.masters.bring(master);
      const facts = MasterFacts.parse(master.facts);
      return { path, facts, decisions: decisionsOf(master), text: textOf(facts, details, master.fileName), close };
    },
  });

  const outputSource = ({ facts }: MasterRecord, details: StudioDetails, { target, folder, fileName }: StandingOutput): SheetSource => ({
    name: fileName,
    open: async () => {
      const root = files.outputs.pathOf(target);
      if (root === null) return Promise.resolve(null);
      const text = textOf(facts ? MasterFacts.parse(facts) : null, details, fileName);
      return Promise.resolve({ path: join(root, folder, fileName), facts: null, decisions: null, text, close: async () => {} });
    },
  });

  return {
    makeSheet: async ({ setId, body, response }) => {
      const set = await findSet(database, setId);
      const { look } = body;
      try {
        sheetLayout(look);
      } catch (error) {
        if (error instanceof RangeError) throw requestProblem('invalid', error.message);
        throw error;
      }
      const sources = await sourcesOf(set, body);
      if (sources.length === 0) throw requestProblem('nothing-there', 'There are no pictures for this sheet.');
      const gone = goneWith(response);
      response.setHeader('Content-Type', 'application/pdf');
      response.setHeader('Cache-Control', 'no-store');
      response.attachment(`${fileSafe(look.title || set.title)}.pdf`);
      try {
        await oneByOne(() => sendSheet(sheetProgram, look, sources, response, gone.signal));
        response.end();
      } catch (error) {
        // Half a document is none: whoever waits sees the connection break.
        if (!gone.signal.aborted) log.warn({ err: error, setId }, 'a sheet was not finished');
        response.destroy();
      }
    },
  } satisfies Partial<Handlers>;
}

function textOf(facts: MasterFacts | null, details: StudioDetails, name: string): SheetText {
  if (!facts) return { name, title: null, credit: null };
  const { copyright, creator } = fillRights(facts, details);
  return { name, title: facts.title, credit: copyright ?? creator };
}
