import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { Manifest, parseManifestText, type SeenFile } from './manifest';
import { bitsApart, verdictInWords, verdicts, verdictsInShort } from './verify';

const hex = (seed: number, digits: number) =>
  Array.from({ length: digits }, (_, at) => ((Math.imul(seed + 1, 2654435761) >>> (at % 7)) ^ (seed * (at + 3))) & 15)
    .map((digit) => digit.toString(16))
    .join('');
const file = (at: number, more: Partial<SeenFile> = {}): SeenFile => ({
  path: `web/p-${at}.jpg`,
  bytes: 1000 + at,
  sha256: hex(at, 64),
  type: 'jpeg',
  width: 2048,
  height: 1365,
  coded: hex(at + 500, 64),
  quality: 80,
  likeness: hex(7 * at + 11, 16),
  cells: { columns: 1, rows: 1, values: '808080' },
  ...more,
});
const kinds = (delivered: SeenFile[], found: SeenFile[]) => verdicts(delivered, found).map(({ kind }) => kind);

describe('a delivery', () => {
  it('is told file by file: as it was, renamed, with other metadata, compressed again, resized, gone, and what is foreign', () => {
    const delivered = [0, 1, 2, 3, 4, 5].map((at) => file(at));
    const found = [
      file(0),
      file(1, { path: 'other name.jpg' }),
      file(2, { sha256: hex(92, 64), bytes: 900 }),
      file(3, { sha256: hex(93, 64), coded: hex(94, 64), quality: 60 }),
      file(4, { sha256: hex(95, 64), coded: hex(96, 64), width: 1024, height: 683, path: 'small.jpg', quality: 72 }),
      file(77),
    ];
    const all = verdicts(delivered, found);
    expect(all.map(({ kind }) => kind)).toEqual([
      'as-delivered',
      'renamed',
      'relabelled',
      'compressed-again',
      'resized',
      'missing',
      'foreign',
    ]);
    expect(all.slice(1).map(verdictInWords)).toEqual([
      'web/p-1.jpg is now other name.jpg: renamed',
      'web/p-2.jpg: other metadata or profile, the picture as delivered',
      'web/p-3.jpg: compressed again, quality about 60, was 80',
      'web/p-4.jpg is now small.jpg: resized, 1024 × 683 px instead of 2048 × 1365; quality about 72, was 80',
      'web/p-5.jpg: missing',
      'web/p-77.jpg: not delivered by us',
    ]);
    expect(verdictsInShort(all)).toBe(
      '1 of 6 files is as delivered, 1 is renamed, 1 is relabelled, 1 is compressed again, 1 is resized, 1 is missing, 1 is foreign.',
    );
  });

  it('takes another picture under the same name for foreign, and never one file for two', () => {
    expect(kinds([file(0)], [file(33, { path: file(0).path })])).toEqual(['missing', 'foreign']);
    // Two files alike, one of which is left: it is told once.
    const twins = [file(0), file(1, { sha256: file(0).sha256 })];
    expect(kinds(twins, [file(0)])).toEqual(['as-delivered', 'missing']);
    expect(kinds(twins, [file(1, { sha256: file(0).sha256 })])).toEqual(['missing', 'as-delivered']);
    expect(kinds([file(0)], [file(0), file(0, { path: 'copy.jpg' })])).toEqual(['as-delivered', 'foreign']);
  });

  it('is told whole: each delivered and each found file exactly once, in whatever order they are found', () => {
    const some = fc.uniqueArray(fc.integer({ min: 0, max: 40 }), { maxLength: 12 });
    fc.assert(
      fc.property(some, some, fc.integer(), (delivered, found, seed) => {
        const there = found.map((at) => file(at, at % 3 === 0 ? { path: `moved ${at}.jpg` } : {}));
        const all = verdicts(
          delivered.map((at) => file(at)),
          there.toSorted((a, b) => ((a.bytes * seed) % 7) - ((b.bytes * seed) % 7)),
        );
        expect(all.flatMap(({ path }) => path ?? [])).toEqual(delivered.map((at) => file(at).path));
        expect(all.flatMap(({ found: path }) => path ?? []).sort()).toEqual(there.map(({ path }) => path).sort());
        expect(all.filter(({ kind }) => kind === 'as-delivered' || kind === 'renamed')).toHaveLength(
          delivered.filter((at) => found.includes(at)).length,
        );
      }),
    );
  });

  it('counts bits, and has its manifest checked field by field', () => {
    expect([bitsApart('0000000000000000', 'ffffffffffffffff'), bitsApart('00000000000000f1', '0000000000000001')]).toEqual([64, 4]);
    const manifest = { kind: 'rundle.manifest', version: 1, set: 'Regatta', madeAt: '2026-11-27T10:00:00.000Z' };
    const whole = { ...manifest, files: [{ ...file(0), master: 'a.tif', preset: 'Web', version: 3 }] };
    expect(parseManifestText(JSON.stringify(whole))).toEqual({ ok: true, value: Manifest.parse(whole) });
    expect(parseManifestText('{"kind": ')).toMatchObject({ ok: false });
    expect(parseManifestText(JSON.stringify({ ...whole, version: 2 }))).toMatchObject({
      problems: [{ code: 'manifest-field', field: 'version' }],
    });
  });
});
