import fc from 'fast-check';
import sharp from 'sharp';
import { describe, expect, it } from 'vitest';
import type { MasterFacts } from '../facts/facts';
import { soundFacts } from '../facts/sound-facts';
import { annexKTable, jpegQuality } from '../file/jpeg-quality';
import { firstAlike, likenessOf } from '../judge/likeness';
import { StudioDetails } from '../metadata/studio';
import { Preset } from '../preset/schema';
import { HouseRules, houseFindings } from './house-rules';
import { carriedFacts, carriedPreset, NO_DECISIONS } from '../decisions/decisions';
import { type VetMaster, type VetRequest, vetSet } from './vet';

const preset = (title: string, more: object = {}) => ({
  id: title,
  preset: Preset.parse({ kind: 'rundle.preset', version: 1, title, ...more }),
});
const master = (id: string, facts: Partial<MasterFacts> = {}, more: Partial<VetMaster> = {}): VetMaster => ({
  id,
  fileName: `${id}.jpg`,
  read: { ok: true, facts: { ...soundFacts, ...facts } },
  stars: 0,
  choice: null,
  tags: [],
  decisions: NO_DECISIONS,
  ...more,
});
const vet = (masters: VetMaster[], more: Partial<VetRequest> = {}) =>
  vetSet({ setTitle: 'Set', masters, presets: [], house: null, studio: StudioDetails.parse({}), ...more }).map(({ code, pictures }) => [
    code,
    ...pictures.map(({ masterId }) => masterId),
  ]);

describe('vetting', () => {
  it('says nothing of a sound set, and tells the worst first', () => {
    expect(vet([master('a'), master('b')], { presets: [preset('P')] })).toEqual([]);
    const broken = master('c', {}, { read: { ok: false, problem: { code: 'damaged', message: 'Cut off.' } } });
    expect(vet([master('a', { bits: 16 }), master('b', { profile: null }), broken])).toEqual([
      ['unreadable', 'c'],
      ['no-profile', 'b'],
      ['deep', 'a'],
    ]);
  });

  it('asks no more about what is left out, or has been decided', () => {
    const bare = { profile: null, gps: true };
    const keeps = preset('Keeps', { metadata: { place: 'keep' } });
    expect(vet([master('a', bare)], { presets: [keeps] }).map(([code]) => code)).toEqual(['place-kept', 'no-profile', 'place-present']);
    expect(vet([master('a', bare, { choice: 'out' })])).toEqual([]);
    const decisions = { ...NO_DECISIONS, assumeSrgb: true, dropPlace: true };
    expect(vet([master('a', bare, { decisions })], { presets: [keeps] })).toEqual([['place-present', 'a']]);
  });

  it('counts rights as there when the studio fills them', () => {
    const nobody = { rights: { ...soundFacts.rights, creator: null } };
    const studio = StudioDetails.parse({ creator: 'Orla Vessby' });
    const without = preset('Without', { metadata: { fill: false } });
    expect(vet([master('a', nobody)], { presets: [preset('P')], studio })).toEqual([]);
    expect(vet([master('a', nobody)], { presets: [without], studio })).toEqual([['rights-missing', 'a']]);
    expect(vet([master('a', nobody, { decisions: { ...NO_DECISIONS, fillRights: true } })], { presets: [without], studio })).toEqual([]);
  });

  it('asks for the studio’s details first where they are empty', () => {
    const nobody = master('a', { rights: { ...soundFacts.rights, creator: null } });
    const remedies = (studio: object) =>
      vetSet({ setTitle: 'Set', masters: [nobody], presets: [], house: null, studio: StudioDetails.parse(studio) }).map(
        ({ remedy }) => remedy,
      );
    expect(remedies({})).toEqual([{ kind: 'name-studio' }]);
    expect(remedies({ copyrightHolder: 'Lanternfold' })).toEqual([{ kind: 'fill-rights' }]);
  });

  it('tells each preset’s too small masters apart, unless they are not for it', () => {
    const [large, heroes] = [
      preset('Large', { size: { px: 8000 } }),
      preset('Heroes', { size: { px: 9000 }, folder: 'heroes', applies: { tags: ['hero'] } }),
    ];
    const masters = [
      master('a'),
      master('b', {}, { tags: ['Hero'] }),
      master('c', {}, { decisions: { ...NO_DECISIONS, without: ['Large'] } }),
    ];
    expect(vet(masters, { presets: [large, heroes] })).toEqual([
      ['smaller-than-asked', 'a', 'b'],
      ['smaller-than-asked', 'b'],
    ]);
  });

  it('finds masters that would share a name, and frames that are almost the same', () => {
    const twins = [
      master('a', { likeness: '0123456789abcdef' }, { fileName: 'x.jpg' }),
      master('b', { likeness: '0123456789abcdee' }, { fileName: 'x.tif' }),
    ];
    expect(vet(twins, { presets: [preset('P', { name: { parts: [{ part: 'original' }] } })] })).toEqual([
      ['same-name', 'b'],
      ['mislabelled', 'b'],
      ['near-duplicate', 'b'],
    ]);
  });

  it('treats a master as was decided, whatever the preset', () => {
    const { preset: plain } = preset('P', { metadata: { rights: 'remove', place: 'keep' }, colour: { untagged: 'adobe-rgb' } });
    const decisions = { ...NO_DECISIONS, assumeSrgb: true, fillRights: true, dropPlace: true };
    expect(carriedPreset(plain, null, NO_DECISIONS)).toBe(plain);
    expect(carriedPreset(plain, null, decisions)).toMatchObject({
      colour: { untagged: 'srgb' },
      metadata: { rights: 'keep', fill: true, place: 'remove' },
    });
    expect(carriedFacts({ ...soundFacts, profile: null, exifSpace: 'adobe-rgb' }, decisions).exifSpace).toBeNull();
  });
});

describe('house rules', () => {
  it('hold an output’s size, weight, type and colours', () => {
    const rules = HouseRules.parse({
      title: 'Shop',
      mostPixels: 1000,
      leastShortSide: 800,
      mostBytes: 300_000,
      types: ['png'],
      spaces: ['display-p3'],
    });
    const { preset: jpeg } = preset('P');
    expect(houseFindings(rules, { width: 1200, height: 700 }, { bytes: 400_000, expected: true }, jpeg).map(({ code }) => code)).toEqual([
      'house-long',
      'house-short',
      'house-heavy',
      'house-type',
      'house-space',
    ]);
    expect(houseFindings(HouseRules.parse({ title: 'Any' }), { width: 9000, height: 1 }, { bytes: 1e9, expected: false }, jpeg)).toEqual(
      [],
    );
  });
});

describe('the quality of a JPEG', () => {
  it('is that of ITU-T T.81’s table, scaled', () => {
    // Table K.1 itself is quality 50; at 75 its first divisor is 8 (IJG's scaling, from memory).
    expect([annexKTable(50)[0], annexKTable(75)[0], annexKTable(100)[0]]).toEqual([16, 8, 1]);
    for (let quality = 1; quality <= 100; quality++)
      expect(Math.abs(jpegQuality(annexKTable(quality)) - quality)).toBeLessThanOrEqual(quality < 3 ? 2 : 0);
  });
});

describe('a likeness', () => {
  it('hardly changes with size, and does with the picture', async () => {
    const base = new URL('../../../../demo/base/', import.meta.url).pathname;
    const of = async (name: string, width = 512) => {
      const { data, info } = await sharp(`${base}${name}.jpg`).resize(width).raw().toBuffer({ resolveWithObject: true });
      return likenessOf({ width: info.width, height: info.height, channels: 3, pixels: new Uint8Array(data) });
    };
    const regatta = await of('regatta');
    expect(firstAlike([regatta, regatta], 0)).toEqual([null, 0]);
    expect(firstAlike([regatta, await of('regatta', 90)], 4)).toEqual([null, 0]);
    expect(firstAlike([regatta, await of('harbour-dusk')], 10)).toEqual([null, null]);
  });

  it('is found as comparing each with each by its bits finds it', () => {
    const print = fc.option(fc.bigInt({ min: 0n, max: 2n ** 64n - 1n }).map((bits) => bits.toString(16).padStart(16, '0')));
    const distance = (a: string, b: string) => (BigInt(`0x${a}`) ^ BigInt(`0x${b}`)).toString(2).replaceAll('0', '').length;
    fc.assert(
      fc.property(fc.array(print, { maxLength: 30 }), fc.integer({ min: 0, max: 64 }), (prints, within) => {
        const first: (number | null)[] = [];
        for (const one of prints) {
          const like = prints.findIndex((other, at) => first[at] === null && one && other && distance(one, other) <= within);
          first.push(like < 0 || !one ? null : like);
        }
        expect(firstAlike(prints, within)).toEqual(first);
      }),
    );
  });
});
