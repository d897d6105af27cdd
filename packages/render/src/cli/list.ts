import { writeFile } from 'node:fs/promises';
import { basename, dirname, relative, resolve } from 'node:path';
import { recordAsCsv, type RunRecord } from '@rundle/core';
import type { Call } from './call';
import { type OutputEvent, Report } from './report';

/** What a call has made, as the record of a run. */
export function recordOf(call: Extract<Call, { command: 'render' | 'plan' }>, report: Report, begun: Date, cancelled: boolean): RunRecord {
  const { presets, out, studio } = call;
  const target = resolve(out);
  return {
    set: setOf(call),
    state: cancelled ? 'cancelled' : 'done',
    startedAt: begun.toISOString(),
    finishedAt: new Date().toISOString(),
    place: { kind: 'folder', path: target },
    presets: presets.map(({ preset }) => ({ title: preset.title, version: preset.version, once: null })),
    houseRules: null,
    creator: studio.creator || null,
    outputs: report.outputs.map((output) => recorded(output, target)),
  };
}

/** What a set is called on the command line: as it is named, or after its folder. */
export const setOf = ({ set, paths, out }: Extract<Call, { command: 'render' | 'plan' }>): string =>
  set ?? basename(dirname(resolve(paths[0] ?? out)));

function recorded(
  { master, preset, part = '', status, output, width = 0, height = 0, bytes, quality, warnings, error }: OutputEvent,
  target: string,
) {
  return {
    master,
    preset,
    part,
    version: 1,
    state: status,
    file: output === undefined ? '' : relative(target, output),
    width,
    height,
    bytes: status === 'done' ? (bytes ?? null) : null,
    quality: quality ?? null,
    ms: null,
    remarks: (warnings ?? []).map((warning) => ({ severity: 'note' as const, ...warning })),
    error: error ?? null,
  };
}

/** Writes a record as a table or as data, by the extension of the file. */
export async function keepList(file: string, record: RunRecord): Promise<void> {
  const text = /\.csv$/i.test(file) ? recordAsCsv(record) : `${JSON.stringify(record, null, 2)}\n`;
  await writeFile(file, text).catch((error: unknown) =>
    Report.problem({
      code: 'not-written',
      file,
      message: `The list could not be written: ${error instanceof Error ? error.message : String(error)}`,
    }),
  );
}
