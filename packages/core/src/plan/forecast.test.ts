import { describe, expect, it } from 'vitest';
import { soundFacts } from '../facts/sound-facts';
import { fateOfFields } from '../metadata/fate';
import { StudioDetails } from '../metadata/studio';
import { Preset } from '../preset/schema';
import { NO_DECISIONS } from '../decisions/decisions';
import { type VetMaster, vetSet } from '../vet/vet';
import { creditLines } from './credits';
import { forecast, newNames } from './forecast';
import { planRun, type PlanMaster } from './plan';

const preset = (more: object = {}) => Preset.parse({ kind: 'rundle.preset', version: 1, title: 'Web', ...more });
const master = (fileName: string, more: object = {}, decisions = NO_DECISIONS): PlanMaster => ({
  id: fileName,
  fileName,
  read: { ok: true, facts: { ...soundFacts, ...more } },
  rating: 3,
  tags: [],
  decisions,
});
const SET = [
  master('one.jpg', { width: 6000, height: 4000 }),
  master('two.jpg', { width: 6000, height: 4000 }),
  master('høj & smal (final).tif', { width: 4000, height: 6000 }),
  master('small.jpg', { width: 800, height: 600 }),
  master('tall.jpg', { width: 4000, height: 5000 }),
];

describe('a forecast', () => {
  it('says what the pictures of a set become, and shows the first name, an upright one and the most awkward', () => {
    const told = forecast(preset({ size: { px: 1920 } }), SET, 'Set');
    expect(told).toMatchObject({ pictures: 5, smaller: 1, clashes: 0, clash: null });
    expect(told.sizes[0]).toEqual({ width: 1920, height: 1280, pictures: 2 });
    expect(told.sizes).toContainEqual({ width: 1280, height: 1920, pictures: 1 });
    expect(told.examples.map(({ why, master: name }) => [why, name])).toEqual([
      ['first', 'one.jpg'],
      ['upright', 'tall.jpg'],
      ['awkward', 'høj & smal (final).tif'],
    ]);
    expect(told.examples[2]!.output).toMatch(/^web\/h.j-smal-final_1920\.jpg$/);
  });

  it('tells of names that clash, and of pictures that a ceiling would bring to its floor', () => {
    const told = forecast(preset({ name: { parts: [{ part: 'set' }] } }), SET, 'Harbour');
    expect(told).toMatchObject({ clashes: 4, clash: 'Harbour-2.jpg' });
    const ceiling = (bytes: number) => forecast(preset({ file: { ceiling: { bytes, floor: 60 } } }), SET, 'Set').atFloor;
    expect([ceiling(2000), ceiling(100_000_000)]).toEqual([5, 0]);
  });

  it('lists all new names in the order of the set, one for each file', () => {
    const told = newNames(preset({ size: { px: 1920 }, folder: 'out' }), SET, 'Set');
    expect(told.slice(0, 2)).toEqual([
      { master: 'one.jpg', output: 'out/one_1920.jpg' },
      { master: 'two.jpg', output: 'out/two_1920.jpg' },
    ]);
    const sizes = [
      { label: 's', px: 480 },
      { label: 'l', px: 900 },
    ];
    const family = newNames(preset({ size: { sizes }, folder: '' }), SET.slice(0, 1), 'Set');
    expect(family.map(({ output }) => output)).toEqual(['one_480_s.jpg', 'one_900_l.jpg']);
  });
});

describe('an untouched copy', () => {
  const copy = preset({ file: { type: 'original' }, name: { parts: [{ part: 'original' }, { part: 'text', text: '_raw' }] }, folder: '' });
  const planned = (one: PlanMaster) =>
    planRun({
      setTitle: 'Set',
      masters: [one],
      presets: [{ id: 'copy', preset: copy, problem: null }],
      standing: () => ({ is: 'free' }),
    })[0]!;

  it('has the size, the weight and the extension of its master, and says that its place goes out', () => {
    expect(planned(master('Big.TIF', { width: 5000, height: 3000, bytes: 123_456, gps: true }))).toMatchObject({
      status: 'planned',
      fileName: 'Big_raw.TIF',
      width: 5000,
      height: 3000,
      expectedBytes: 123_456,
      warnings: [{ code: 'place-kept' }],
    });
    expect(planned(master('Plain.jpg', { gps: false }))).toMatchObject({ warnings: [{ code: 'kept-whole' }] });
  });

  it('signs nothing, is never too small, and tells in Vet that the place goes out', () => {
    const facts = { ...soundFacts, width: 300, height: 200, gps: true, rights: { ...soundFacts.rights, creator: null, copyright: null } };
    const studio = StudioDetails.parse({ creator: 'Studio' });
    const lines = creditLines([{ facts, decisions: NO_DECISIONS, presets: [{ id: 'c', preset: copy }] }], studio, StudioDetails.parse({}));
    expect(lines).toMatchObject([{ text: '', from: 'nobody' }]);
    const one: VetMaster = {
      id: '1',
      fileName: 'a.jpg',
      read: { ok: true, facts },
      stars: 0,
      choice: null,
      tags: [],
      decisions: NO_DECISIONS,
    };
    const groups = vetSet({ setTitle: 'Set', masters: [one], presets: [{ id: 'c', preset: copy }], studio, house: null });
    expect(JSON.stringify(groups)).toContain('place-kept');
    expect(JSON.stringify(groups)).not.toContain('smaller-than-asked');
  });

  it('is not made of a master whose location is to be removed, with that reason', () => {
    expect(planned(master('Home.jpg', { gps: true }, { ...NO_DECISIONS, dropPlace: true }))).toMatchObject({
      status: 'failed',
      error: { code: 'place-would-stay', file: 'Home.jpg' },
    });
    expect(planned(master('Away.jpg', { gps: false }, { ...NO_DECISIONS, dropPlace: true }))).toMatchObject({ status: 'planned' });
  });
});

describe('the fate of fields', () => {
  it('tells field by field what stays, what is filled in and what goes', () => {
    const facts = {
      ...soundFacts,
      gps: true,
      camera: 'Box 1',
      rights: { ...soundFacts.rights, creator: 'Own Name', copyright: null },
      captured: '2024-05-06T07:08:09',
    };
    const studio = StudioDetails.parse({ copyrightHolder: 'Studio' });
    const fates = new Map(fateOfFields(facts, preset(), studio).map(({ label, value, fate }) => [label, `${fate}: ${value}`]));
    expect(fates.get('Creator')).toBe('kept: Own Name');
    expect(fates.get('Copyright notice')).toBe('filled: © 2024 Studio');
    expect(fates.get('Place')).toBe('removed: a GPS position');
    expect(fates.get('Camera')).toBe('removed: Box 1');
    expect(fateOfFields(facts, preset({ file: { type: 'original' } }), studio).every(({ fate }) => fate === 'kept')).toBe(true);
  });
});
