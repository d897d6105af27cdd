import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { Preset, type PresetInput } from '../preset/schema';
import { decidedAfter, type DecisionsChange, saidOf, undoOf } from './change';
import { carriedPreset, countingDecisions, type Decisions, decisionsKey, NO_DECISIONS, Overrides } from './decisions';

const IDS = ['0198a000-0000-7000-8000-000000000001', '0198a000-0000-7000-8000-000000000002', '0198a000-0000-7000-8000-000000000003'];
const place = fc.record({ x: fc.constantFrom(0, 0.25, 1), y: fc.constantFrom(0, 0.5, 1) });
const without = fc.oneof(fc.subarray(IDS), fc.dictionary(fc.constantFrom(...IDS), fc.boolean()));
const change: fc.Arbitrary<DecisionsChange> = fc.record(
  { assumeSrgb: fc.boolean(), fillRights: fc.boolean(), dropPlace: fc.boolean(), focus: fc.option(place), without },
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
        for (const name of ['assumeSrgb', 'fillRights', 'dropPlace', 'focus'] as const)
          expect(after[name]).toEqual(one[name] === undefined ? before[name] : one[name]);
        if (one.without === undefined) expect(after.without).toEqual(before.without);
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

  it('make out of date what they count for, and leave every other preset the very same', () => {
    const all: Decisions = { assumeSrgb: true, fillRights: true, dropPlace: true, focus: { x: 0, y: 1 }, without: [IDS[0]!] };
    const open = { colour: { untagged: 'adobe-rgb' }, metadata: { rights: 'remove', place: 'keep' } } as const;
    const fitted = preset(open);
    const cut = preset({ ...open, size: { fit: 'cover', width: 9, height: 9 } });
    const copy = preset({ file: { type: 'original' } });
    expect(countingDecisions(all, fitted, IDS[0]!)).toEqual(['assumeSrgb', 'fillRights', 'dropPlace', 'without']);
    expect(countingDecisions(all, cut, IDS[1]!)).toEqual(['assumeSrgb', 'fillRights', 'dropPlace', 'focus']);
    expect(countingDecisions(all, copy, IDS[1]!)).toEqual([]);
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
