import { describe, expect, it } from 'vitest';
import { Preset } from '../preset/schema';
import { parseSetFile, placedPictures, SetFile } from './set-file';

const sha = (digit: string) => digit.repeat(64);
const whole = {
  kind: 'rundle.set',
  version: 1,
  title: 'Lantern evening',
  madeAt: '2026-06-21T09:00:00.000Z',
  rights: {},
  pictures: [
    { sha256: sha('a'), name: 'a.jpg', bytes: 10, stars: 3, choice: 'pick', tags: ['hero'], master: 'masters/0001 a.jpg' },
    { sha256: sha('b'), name: 'b.jpg', bytes: 20, stars: 0, choice: null, tags: [] },
  ],
  decisions: { kind: 'rundle.decisions', version: 1, pictures: [] },
  presets: {
    kind: 'rundle.bundle',
    version: 1,
    title: 'Web',
    presets: [Preset.parse({ kind: 'rundle.preset', version: 1, title: 'Web' })],
  },
  chosen: ['Web'],
  record: [{ sha256: sha('a'), preset: 'Web', version: 2, path: 'web/a.jpg', width: 3, height: 2, bytes: 5, madeAt: null }],
};

describe('a set that travels', () => {
  it('is read back as it was written', () => {
    const read = parseSetFile(JSON.stringify(whole));
    expect(read).toMatchObject({ ok: true, value: { title: 'Lantern evening', pictures: [{ stars: 3 }, { master: null }] } });
    if (read.ok) expect(SetFile.parse(JSON.parse(JSON.stringify(read.value)))).toEqual(read.value);
  });

  it('says which field is wrong', () => {
    const wrong = (part: object) => {
      const read = parseSetFile(JSON.stringify({ ...whole, ...part }));
      return read.ok ? null : read.problems.map(({ message }) => message).join(' ');
    };
    expect(parseSetFile('{')).toMatchObject({ ok: false });
    expect(wrong({ kind: 'rundle.preset' })).toContain('"rundle.set"');
    expect(wrong({ version: 2 })).toContain('1, the only version');
    expect(wrong({ pictures: [{ ...whole.pictures[0], stars: 9 }] })).toMatch(/stars/i);
  });

  it('puts its pictures in order and marks them by their content, whatever they are called', () => {
    const read = parseSetFile(JSON.stringify(whole));
    if (!read.ok) throw new Error('it was not read');
    const masters = [
      { id: 'second', content: sha('b').slice(0, 16) },
      { id: 'other', content: sha('c').slice(0, 16) },
      { id: 'first', content: sha('a').slice(0, 16) },
    ];
    const placed = placedPictures(read.value, masters);
    expect(placed.order).toEqual(['first', 'second']);
    expect(placed.marks[0]).toEqual({ masterId: 'first', stars: 3, choice: 'pick', tags: ['hero'] });
    expect(placedPictures(read.value, [{ id: 'x', content: null }]).missing).toEqual(['a.jpg', 'b.jpg']);
  });
});
