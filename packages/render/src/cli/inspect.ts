import { basename } from 'node:path';
import { Inspection, masterFindings, problemOf } from '@rundle/core';
import type { Renderer } from '../pool/renderer';
import { useExifTool } from '../read/exiftool';
import { OnceExifTool } from '../read/exiftool-once';
import type { Call } from './call';
import { collectFiles } from './collect';
import { Report } from './report';

/** `rundle inspect`: the facts and findings of every file. Returns the exit code. */
export async function inspect(call: Extract<Call, { command: 'inspect' }>, renderer: Renderer): Promise<number> {
  const { files, leftAside, problems } = await collectFiles(call.paths, call.recursive);
  if (files.length === 1) useExifTool(new OnceExifTool());
  for (const file of leftAside) Report.problem({ code: 'left-aside', file, message: 'Left aside: this is no picture.' });
  const report = new Report(call.json);
  const read = files.map((file) => inspectFile(renderer, file));
  let failed = problems.length > 0;
  for (const problem of problems) report.inspection({ file: problem.file, error: problem });
  for (const result of read) {
    const told = await result;
    failed ||= 'error' in told;
    report.inspection(told);
  }
  return failed ? 3 : 0;
}

async function inspectFile(renderer: Renderer, file: string): Promise<Inspection | { file: string; error: object }> {
  try {
    const facts = await renderer.facts(file, null);
    const { creator, copyright } = facts.rights;
    return Inspection.parse({ file, ...facts, creator, copyright, findings: masterFindings(facts, basename(file)) });
  } catch (error) {
    return { file, error: problemOf(error, 'unreadable') };
  }
}
