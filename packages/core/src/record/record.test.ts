import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { compareRecords, recordAsCsv, recordAsTable, recordAsText, type RunRecord } from './record';

type Recorded = RunRecord['outputs'][number];
const output = (more: Partial<Recorded> = {}): Recorded => ({
  master: 'LFS_0412.jpg',
  preset: 'Web',
  part: '',
  version: 1,
  state: 'done',
  file: 'web/lfs_0412_2048.jpg',
  width: 2048,
  height: 1365,
  bytes: 412_300,
  quality: 80,
  ms: 900,
  remarks: [],
  error: null,
  ...more,
});
const record = (...outputs: Recorded[]): RunRecord => ({
  set: 'Evening',
  state: 'done',
  startedAt: '2026-06-20T21:40:00Z',
  finishedAt: '2026-06-20T21:41:00Z',
  place: { kind: 'own' },
  presets: [{ title: 'Web', version: 1, once: null }],
  houseRules: null,
  creator: null,
  outputs,
});
const failed = output({
  master: '=HYPERLINK("http://x"), "a"',
  state: 'failed',
  bytes: null,
  error: { code: 'damaged', message: 'Cut\noff.' },
});

/** A reader of RFC 4180 as its grammar has it. */
function cellsOf(csv: string): string[][] {
  const rows: string[][] = [];
  const field = /(?:"((?:[^"]|"")*)"|([^",\r\n]*))(,|\r\n)/y;
  for (let row: string[] = [], match; (match = field.exec(csv));) {
    row.push(match[1]?.replaceAll('""', '"') ?? match[2] ?? '');
    if (match[3] !== '\r\n') continue;
    rows.push(row);
    row = [];
  }
  return rows;
}

describe('the record of a run', () => {
  it('as a table says it all, and holds nothing that a spreadsheet would carry out', () => {
    const csv = recordAsCsv(record(output(), failed));
    expect(csv.charCodeAt(0)).toBe(0xfeff);
    const [head, first, second] = cellsOf(csv.slice(1));
    expect(head!.slice(0, 5)).toEqual(['Master', 'Preset', 'Version', 'State', 'File']);
    expect(first!.slice(0, 10)).toEqual([
      'LFS_0412.jpg',
      'Web',
      '1',
      'done',
      'web/lfs_0412_2048.jpg',
      '2048',
      '1365',
      '412300',
      '80',
      '900',
    ]);
    expect(second![0]).toBe(`'=HYPERLINK("http://x"), "a"`);
    expect(second!.at(-3)).toBe('Cut\noff.');
    expect(head!.slice(-2)).toEqual(['Master as URI', 'File as URI']);
    const [, dash] = cellsOf(recordAsCsv(record(output({ master: '-a', file: 'web/=Hafen 1.jpg' }))).slice(1));
    expect(dash!.slice(-2)).toEqual(['%2Da', 'web/%3DHafen%201.jpg']);
    expect(recordAsTable(record(failed)).split('\n')).toHaveLength(2);
    fc.assert(
      fc.property(fc.string(), fc.string(), (master, file) => {
        const [, row] = cellsOf(recordAsCsv(record(output({ master, file }))).slice(1));
        return (
          row!.length === head!.length &&
          row!.every((cell) => !/^[=+@\t\r]/.test(cell)) &&
          [master, `'${master}`].includes(row![0]!) &&
          decodeURIComponent(row!.at(-2)!) === master &&
          decodeURIComponent(row!.at(-1)!) === file
        );
      }),
    );
  });

  it('as text names the files and what failed', () => {
    expect(recordAsText(record(output(), failed)).split('\n').slice(0, 3)).toEqual([
      'Evening: Web',
      'web/lfs_0412_2048.jpg  2048 × 1365 px  412 KB',
      'Failed:',
    ]);
  });

  it('compared with another tells what differs', () => {
    const other = output({ master: 'b.jpg' });
    const differences = compareRecords(
      record(output(), other),
      record(output({ bytes: 300_000, quality: 70, version: 2 }), output({ master: 'c.jpg' })),
    );
    expect(differences.map(({ master, what }) => [master, ...what])).toEqual([
      ['LFS_0412.jpg', 'version', 'weight', 'quality'],
      ['c.jpg', 'only-after'],
      ['b.jpg', 'only-before'],
    ]);
    expect(compareRecords(record(output()), record(output()))).toEqual([]);
  });
});
