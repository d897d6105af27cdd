import { createWriteStream, existsSync } from 'node:fs';
import { rm } from 'node:fs/promises';
import { basename, resolve } from 'node:path';
import { problemOf } from '@rundle/core';
import { asideOf, makeFile, putFileOrDrop } from '@rundle/place';
import type { Renderer } from '../pool/renderer';
import { makeSheet, type SheetEntry } from '../sheet/make-sheet';
import type { Call } from './call';
import { collectFiles } from './collect';
import { Report } from './report';

/** `rundle sheet`: a PDF of pictures in rows. A file that stands there is never replaced. Returns the exit code. */
export async function sheet(call: Extract<Call, { command: 'sheet' }>, renderer: Renderer, signal: AbortSignal): Promise<number> {
  if (existsSync(call.out)) {
    Report.problem({
      code: 'exists',
      file: call.out,
      message: 'It is already there, and nothing is replaced. Name another file with --out.',
    });
    return 2;
  }
  const { files, leftAside, problems } = await collectFiles(call.paths, call.recursive);
  for (const file of leftAside) Report.problem({ code: 'left-aside', file, message: 'Left aside: this is no picture.' });
  for (const problem of problems) Report.problem(problem);
  const report = new Report(call.json);
  const to = resolve(call.out);
  const aside = asideOf(to);
  let failed = problems.length > 0;
  try {
    await makeFile(aside, basename(to), () =>
      makeSheet(
        renderer,
        call.look,
        files.map((file) => entryOf(renderer, file)),
        createWriteStream(aside),
        (index, error) => {
          if (error === null) return;
          failed = true;
          const problem = problemOf(error, 'unreadable');
          Report.problem({ ...problem, file: files[index]! });
        },
        signal,
      ),
    );
    await putFileOrDrop(aside, to, { mayReplace: () => false });
  } catch (error) {
    await rm(aside, { force: true });
    const isUsage = error instanceof RangeError;
    Report.problem({ ...problemOf(error, isUsage ? 'usage' : 'not-written'), file: call.out });
    return isUsage ? 2 : 3;
  }
  report.sheet(to, files.length);
  return failed ? 3 : 0;
}

/** Its credit line is that of the file. */
const entryOf = (renderer: Renderer, path: string): SheetEntry => ({
  text: { name: basename(path), title: null, credit: null },
  open: async () => {
    const facts = await renderer.facts(path, null);
    const { copyright, creator } = facts.rights;
    const text = { name: basename(path), title: facts.title, credit: copyright ?? creator };
    return { path, facts, decisions: null, text, close: async () => {} };
  },
});
