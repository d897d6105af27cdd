import * as z from 'zod';
import { Once } from '../plan/once';
import { Place } from '../plan/place';
import { kilobytes } from '../preset/descriptors';
import { Problem } from '../problem';
import { Finding } from '../vet/finding';

/** What a run made of what, by which versions and values, and what came out. */
export const RunRecord = z
  .object({
    set: z.string(),
    state: z.enum(['running', 'paused', 'done', 'cancelled']),
    startedAt: z.iso.datetime(),
    finishedAt: z.iso.datetime().nullable(),
    place: Place,
    presets: z.array(
      z.object({
        title: z.string(),
        version: z.int(),
        once: Once.nullable().meta({ description: 'What was varied this once; null: nothing' }),
      }),
    ),
    houseRules: z.string().nullable().meta({ description: 'The receiver whose demands counted' }),
    creator: z.string().nullable().meta({ description: 'The name that was filled in where a file had none' }),
    outputs: z.array(
      z.object({
        master: z.string(),
        preset: z.string(),
        part: z.string().meta({ description: 'Which of the files that the preset makes of a picture; empty: it makes one' }),
        version: z.int(),
        state: z.enum(['planned', 'running', 'done', 'failed', 'skipped', 'cancelled']),
        file: z.string().meta({ description: 'Folder and name below the place; empty: it came to no name' }),
        width: z.int(),
        height: z.int(),
        bytes: z.int().nullable(),
        quality: z.int().nullable(),
        ms: z.int().nullable().meta({ description: 'How long a worker was busy with it' }),
        remarks: z.array(Finding),
        error: Problem.nullable(),
      }),
    ),
  })
  .meta({ id: 'RunRecord' });
export type RunRecord = z.infer<typeof RunRecord>;
type RecordedOutput = RunRecord['outputs'][number];

const COLUMNS: readonly [string, (output: RecordedOutput) => string | number | null][] = [
  ['Master', ({ master }) => master],
  ['Preset', ({ preset }) => preset],
  ['Version', ({ version }) => version],
  ['State', ({ state }) => STATES[state]],
  ['File', ({ file }) => file],
  ['Width', ({ width }) => width || null],
  ['Height', ({ height }) => height || null],
  ['Bytes', ({ bytes }) => bytes],
  ['Quality', ({ quality }) => quality],
  ['Milliseconds', ({ ms }) => ms],
  ['Part', ({ part }) => part || null],
  ['Remarks', ({ error, remarks }) => [...(error ? [error.message] : []), ...remarks.map(({ message }) => message)].join(' ') || null],
];

const STATES: Record<RecordedOutput['state'], string> = {
  planned: 'waiting',
  running: 'rendering',
  done: 'done',
  failed: 'failed',
  skipped: 'left as it was',
  cancelled: 'cancelled',
};

/**
 * The results of a run as a table for a spreadsheet (RFC 4180, with a byte order mark, by which spreadsheets know UTF-8).
 * What could be taken for a formula is given a leading apostrophe (OWASP, CSV Injection); the last columns have the names as they are.
 */
export const recordAsCsv = ({ outputs }: RunRecord): string =>
  `\uFEFF${[[...COLUMNS, ...NAMES].map(([name]) => name), ...rowsOf(outputs, [...COLUMNS, ...NAMES])].map((row) => `${row.map(csvCell).join(',')}\r\n`).join('')}`;

/** The same with tabs, as spreadsheets and mails take it from the clipboard. */
export const recordAsTable = ({ outputs }: RunRecord): string => tabbed([COLUMNS.map(([name]) => name), ...rowsOf(outputs)]);

/** The same as sentences for a message to somebody. */
export function recordAsText({ set, presets, outputs }: RunRecord): string {
  const files = outputs.filter(({ state }) => state === 'done' || state === 'skipped');
  const lines = files.map(({ file, width, height, bytes }) =>
    bytes === null ? file : `${file}  ${width} × ${height} px  ${kilobytes(bytes)}`,
  );
  const failed = outputs.filter(({ state }) => state === 'failed').map(({ master, error }) => `${master}: ${error?.message ?? 'failed'}`);
  return [`${set}: ${presets.map(({ title }) => title).join(', ')}`, ...lines, ...(failed.length ? ['Failed:', ...failed] : [])].join('\n');
}

/** Names as they are, as paths of URIs (RFC 3986, 2.1): no spreadsheet alters them, and a program reads them back by decoding. */
const NAMES: typeof COLUMNS = [
  ['Master as URI', ({ master }) => uriPath(master)],
  ['File as URI', ({ file }) => uriPath(file)],
];

const uriPath = (path: string): string =>
  path
    .replace(/[\ud800-\udfff]/gu, '\ufffd')
    .split('/')
    .map(encodeURIComponent)
    .join('/')
    .replace(/^-/, '%2D');

const rowsOf = (outputs: readonly RecordedOutput[], columns = COLUMNS): string[][] =>
  outputs.map((output) => columns.map(([, value]) => String(value(output) ?? '')));

const csvCell = (value: string): string => {
  const safe = harmless(value);
  return /[",\r\n]/.test(safe) ? `"${safe.replaceAll('"', '""')}"` : safe;
};

/** A spreadsheet takes a cell that begins so for a formula; plain numbers are none. */
const harmless = (value: string): string => (/^[=+\-@\t\r]/.test(value) && !/^-?\d+(\.\d+)?$/.test(value) ? `'${value}` : value);

/** What differs between two runs, for one master and preset. */
export interface RecordDifference {
  master: string;
  preset: string;
  before: RecordedOutput | null;
  after: RecordedOutput | null;
  /** What of it differs. */
  what: ('only-before' | 'only-after' | 'state' | 'size' | 'weight' | 'quality' | 'file' | 'version')[];
}

/** How two runs differ, in the order of the later one; what is the same is left out. */
export function compareRecords(before: RunRecord, after: RunRecord): RecordDifference[] {
  const keyOf = ({ master, preset }: RecordedOutput) => `${master}\n${preset}`;
  const earlier = new Map(before.outputs.map((output) => [keyOf(output), output]));
  const later = new Map(after.outputs.map((output) => [keyOf(output), output]));
  const keys = [...later.keys(), ...[...earlier.keys()].filter((key) => !later.has(key))];
  return keys.flatMap((key) => {
    const [was, is] = [earlier.get(key) ?? null, later.get(key) ?? null];
    const what = whatDiffers(was, is);
    const { master, preset } = (is ?? was)!;
    return what.length ? [{ master, preset, before: was, after: is, what }] : [];
  });
}

function whatDiffers(was: RecordedOutput | null, is: RecordedOutput | null): RecordDifference['what'] {
  if (!was || !is) return [was ? 'only-before' : 'only-after'];
  const made = was.state === 'done' && is.state === 'done';
  return [
    ...(was.state !== is.state ? ['state' as const] : []),
    ...(was.version !== is.version ? ['version' as const] : []),
    ...(made && (was.width !== is.width || was.height !== is.height) ? ['size' as const] : []),
    ...(made && was.bytes !== is.bytes ? ['weight' as const] : []),
    ...(made && was.quality !== is.quality ? ['quality' as const] : []),
    ...(was.file !== is.file ? ['file' as const] : []),
  ];
}

/** A file that came out, as a list of them tells it. */
interface ListedFile {
  folder: string;
  fileName: string;
  masterName: string;
  presetTitle: string;
  width: number;
  height: number;
  masterBytes: number;
  bytes: number;
  quality: number | null;
}

/** Files as a table for the clipboard, as {@link recordAsTable} tells a run. */
export function listAsTable(files: readonly ListedFile[]): string {
  const head = ['File', 'Folder', 'Master', 'Preset', 'Width', 'Height', 'Bytes before', 'Bytes', 'Quality'];
  const rows = files.map(({ folder, fileName, masterName, presetTitle, width, height, masterBytes, bytes, quality }) =>
    [fileName, folder, masterName, presetTitle, width, height, masterBytes, bytes, quality ?? ''].map(String),
  );
  return tabbed([head, ...rows]);
}

const tabbed = (rows: readonly (readonly string[])[]): string =>
  rows.map((row) => row.map((cell) => harmless(cell).replace(/[\t\r\n]+/g, ' ')).join('\t')).join('\n');
