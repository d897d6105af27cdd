import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { Preset, type PresetInput } from '../preset/schema';
import { decidedAfter, type DecisionsChange, saidOf, undoOf } from './change';
import { changeIn, decisionsFile, decisionsIn, idsByTitle, parseDecisionsFile } from './decisions-file';
import {
  carriedPreset,
  contentOfPage,
  countingDecisions,
  type Decisions,
  decisionsKey,
  isOfDecidedPage,
  NO_DECISIONS,
  Overrides,
} from './decisions';

const IDS = ['0198a000-0000-7000-8000-000000000001', '0198a000-0000-7000-8000-000000000002', '0198a000-0000-7000-8000-000000000003'];
const place = fc.record({ x: fc.constantFrom(0, 0.25, 1), y: fc.constantFrom(0, 0.5, 1) });
const without = fc.oneof(fc.subarray(IDS), fc.dictionary(fc.constantFrom(...IDS), fc.boolean()));
const crop = fc.record({
  x: fc.constantFrom(0, 0.2),
  y: fc.constant(0),
  w: fc.constant(0.5),
  h: fc.constant(0.5),
  angle: fc.constantFrom(0, 3),
});
const placement = fc.record({ x: fc.constantFrom(0, 0.1), y: fc.constant(0), w: fc.constantFrom(0.3, 0.4) });
const ratios = fc.dictionary(fc.constantFrom('4:5', '1:1', '1.91:1'), fc.option(placement));
const change: fc.Arbitrary<DecisionsChange> = fc.record(
  {
    assumeSrgb: fc.boolean(),
    fillRights: fc.boolean(),
    dropPlace: fc.boolean(),
    focus: fc.option(place),
    crop: fc.option(crop),
    page: fc.constantFrom(null, 1, 2),
    ratios,
    without,
  },
  { requiredKeys: [] },
);
const decisions: fc.Arbitrary<Decisions> = fc.array(change, { maxLength: 4 }).map((all) => all.reduce(decidedAfter, NO_DECISIONS));
const preset = (more: Partial<PresetInput>) => Preset.parse({ kind: 'rundle.preset', version: 1, title: 'X', ...more });
const sorted = (all: Decisions) => ({ ...all, without: all.without.toSorted() });

describe('decisions about a picture', () => {
  it('are merged one by one: whatever is not named stays, and the order of two that name different ones does not count', () => {
    fc.assert(
      fc.property(decisions, change, (before, one) => {
        const after = decidedAfter(before, one);
        for (const name of ['assumeSrgb', 'fillRights', 'dropPlace', 'focus', 'crop', 'page'] as const)
          expect(after[name]).toEqual(one[name] === undefined ? before[name] : one[name]);
        if (one.without === undefined) expect(after.without).toEqual(before.without);
        for (const [ratio, at] of Object.entries({ ...before.ratios, ...one.ratios })) expect(after.ratios[ratio] ?? null).toEqual(at);
      }),
    );
    const [a, b] = [
      { focus: { x: 0, y: 0 }, without: { [IDS[0]!]: true } },
      { dropPlace: true, without: { [IDS[1]!]: true } },
    ];
    expect(sorted(decidedAfter(decidedAfter(NO_DECISIONS, a), b))).toEqual(sorted(decidedAfter(decidedAfter(NO_DECISIONS, b), a)));
  });

  it('are taken back by their undo, and nothing that was decided meanwhile', () => {
    fc.assert(
      fc.property(decisions, change, (before, one) => {
        expect(sorted(decidedAfter(decidedAfter(before, one), undoOf(before, one)))).toEqual(sorted(before));
      }),
    );
    const focus = { x: 0.5, y: 0.5 };
    const undo = undoOf(NO_DECISIONS, { without: { [IDS[0]!]: true } });
    const meanwhile = decidedAfter(decidedAfter(NO_DECISIONS, { without: { [IDS[0]!]: true } }), { focus, without: { [IDS[1]!]: true } });
    expect(decidedAfter(meanwhile, undo)).toEqual({ ...NO_DECISIONS, focus, without: [IDS[1]] });
  });

  it('are kept without what says nothing, and read as they were', () => {
    fc.assert(
      fc.property(decisions, (all) => {
        expect(Overrides.parse(saidOf(all))).toEqual(all);
      }),
    );
    expect(saidOf(NO_DECISIONS)).toEqual({});
  });

  it('travel as a file, and are the same where the presets have the same names; what a file does not decide stays', () => {
    const presets = IDS.map((id, at) => ({ id, title: `P${at}` }));
    const titles = new Map(presets.map(({ id, title }) => [id, title]));
    const sha256 = 'a'.repeat(64);
    fc.assert(
      fc.property(decisions, decisions, (all, before) => {
        const read = parseDecisionsFile(JSON.stringify(decisionsFile([{ sha256, fileName: 'a.jpg', decisions: all }], titles)));
        if (!read.ok) throw new Error(read.problems[0]!.message);
        const [picture] = read.value.pictures;
        if (!picture) {
          expect(saidOf(all)).toEqual({});
          return;
        }
        expect(sorted(decisionsIn(picture, idsByTitle(presets)))).toEqual(sorted(all));
        const after = decidedAfter(before, changeIn(picture, idsByTitle(presets)));
        expect(after).toMatchObject({ ...saidOf(all), without: expect.arrayContaining(all.without) as string[] });
        if (!all.crop) expect(after.crop).toEqual(before.crop);
      }),
    );
  });

  it('make out of date what they count for, and leave every other preset the very same', () => {
    const all: Decisions = {
      ...NO_DECISIONS,
      assumeSrgb: true,
      fillRights: true,
      dropPlace: true,
      focus: { x: 0, y: 1 },
      without: [IDS[0]!],
    };
    const open = { colour: { untagged: 'adobe-rgb' }, metadata: { rights: 'remove', place: 'keep' } } as const;
    const fitted = preset(open);
    const cut = preset({ ...open, size: { fit: 'cover', width: 9, height: 9 } });
    const copy = preset({ file: { type: 'original' } });
    expect(countingDecisions(all, fitted, IDS[0]!)).toEqual(['assumeSrgb', 'fillRights', 'dropPlace', 'without']);
    expect(countingDecisions(all, cut, IDS[1]!)).toEqual(['assumeSrgb', 'fillRights', 'dropPlace', 'focus']);
    expect(countingDecisions(all, copy, IDS[1]!)).toEqual([]);
    // The first page is the one that nobody has to choose; a copy is of all of them.
    const paged = (page: number) => ({ ...NO_DECISIONS, page });
    expect([fitted, copy].map((one) => countingDecisions(paged(2), one, null))).toEqual([['page'], []]);
    expect(carriedPreset(fitted, null, paged(1))).toBe(fitted);
    const contents = [contentOfPage('ab12', null), contentOfPage('ab12', 2)];
    expect([1, 2, 3].map((page) => contents.map((content) => isOfDecidedPage(content, paged(page))))).toEqual([
      [true, false],
      [false, true],
      [false, false],
    ]);
    expect(carriedPreset(copy, IDS[1]!, all)).toBe(copy);
    expect(carriedPreset(fitted, null, { ...NO_DECISIONS, focus: { x: 0, y: 1 } })).toBe(fitted);
    fc.assert(
      fc.property(decisions, decisions, fc.constantFrom(fitted, cut, copy), fc.constantFrom(null, ...IDS), (one, other, of, id) => {
        const isSame = decisionsKey(one, of, id) === decisionsKey(other, of, id);
        const [a, b] = [carriedPreset(of, id, one), carriedPreset(of, id, other)];
        if (isSame) expect(a).toEqual(b);
        else if (one.without.includes(id ?? '') === other.without.includes(id ?? '')) expect(a).not.toEqual(b);
      }),
    );
  });
});
