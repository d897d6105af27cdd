import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { soundFacts } from '../facts/sound-facts';
import { Preset } from '../preset/schema';
import { type EarlierFate, type EarlierFile, earlierFilesOf, earlierSentence, movesOf } from './earlier';
import { joinPath, placeKey } from './file-place';
import { type OutputOf, outputKey } from '../parts/output-of';
import { type PlannedOutput, planRun } from './plan';

/** A file of the folder: of an output as it was made last, of one that somebody has changed, or a stranger's. */
interface Lying {
  outputId: string;
  masterId: string;
  presetId: string;
  part: string;
  /** What it was made of. */
  recipe: string;
  isCurrent: boolean;
  isOurs: boolean;
  target: string;
  folder: string;
  fileName: string;
}

/** A studio that makes nothing but names: pictures, presets, and one folder. */
class Studio {
  pictures: string[] = [];
  presets = [presetOf('small', { parts: counted('a-'), existing: 'replace' }), presetOf('large', { parts: counted('b-'), folder: 'l' })];
  readonly folder = new Map<string, Lying>();
  private made = 0;

  plan(earlier: EarlierFate, only?: readonly string[]): PlannedOutput[] {
    const ours = [...this.folder.values()].filter(({ isOurs }) => isOurs);
    const isWhole = only === undefined;
    const current = new Map(ours.filter((file) => file.isCurrent).map((file) => [outputKey(file), file]));
    return planRun({
      setTitle: 'Set',
      masters: this.pictures.map((id) => ({ id, fileName: `${id}.jpg`, read: { ok: true, facts: soundFacts }, rating: 3, tags: [] })),
      presets: this.presets.map((one) => ({ ...one, problem: null })),
      earlier,
      isInRun: ({ masterId }) => only?.includes(masterId) ?? true,
      current: (output) => {
        const file = current.get(outputKey(output));
        if (!file) return null;
        const upToDate = file.recipe === this.recipeOf(output);
        const made = { outputId: file.outputId, width: 1, height: 1, bytes: 1, quality: 1, presetVersion: 1, at: '', remarks: [] };
        return { ...file, upToDate, stale: upToDate ? null : 'preset', made };
      },
      standing: (_, path) => {
        const file = [...this.folder.values()].find((one) => joinPath(one.folder, one.fileName) === path);
        if (!file) return { is: 'free' };
        if (!file.isOurs) return { is: 'stranger' };
        const isInSet = this.pictures.includes(file.masterId);
        if (file.isCurrent && isInSet) return { ...file, is: 'current' };
        return earlier === 'go' && isWhole ? { is: 'free' } : { is: 'stranger' };
      },
    });
  }

  /** @param makes how many outputs are made before it is cancelled */
  run(earlier: EarlierFate, { only, makes = Infinity }: { only?: readonly string[]; makes?: number } = {}): void {
    const chosen = this.plan(earlier, only).filter(({ masterId }) => only?.includes(masterId) ?? true);
    // The run is refused.
    if (chosen.some((output) => output.status === 'failed')) return;
    const files = [...this.folder.values()]
      .filter(({ isOurs }) => isOurs)
      .map((file): EarlierFile => ({ ...file, isInSet: this.pictures.includes(file.masterId) }));
    const moves = earlier === 'go' ? movesOf(chosen, files, only === undefined) : [];
    const first = moves.filter(({ when }) => when === 'first');
    const moved = first.map(({ file, to }) => ({ file: this.take(file), to }));
    for (const { file, to } of moved) if (to) this.put({ ...file, ...to });
    const planned = chosen.filter((output) => output.status === 'planned').slice(0, makes);
    for (const output of planned) {
      const { masterId, presetId, part, target, folder, fileName } = output;
      for (const old of this.folder.values()) if (outputKey(old) === outputKey(output)) old.isCurrent = false;
      const there = this.folder.get(placeKey(output));
      // Nothing but what gives way to it.
      if (there) expect([there.isOurs, outputKey(there)]).toEqual([true, outputKey(output)]);
      this.folder.delete(placeKey(output));
      const about = { masterId, presetId, part, recipe: this.recipeOf(output), isCurrent: true, isOurs: true };
      this.put({ outputId: `o${this.made++}`, ...about, target, folder, fileName });
    }
    const isMade = (file: EarlierFile) => planned.some((output) => outputKey(output) === outputKey(file));
    const ended = makes === Infinity;
    for (const { file, when, afterSelf } of moves) if (when === 'last' && (afterSelf ? isMade(file) : ended)) this.take(file);
  }

  private take(file: EarlierFile): Lying {
    const lying = this.folder.get(placeKey(file))!;
    expect(lying.outputId).toBe(file.outputId);
    this.folder.delete(placeKey(file));
    return lying;
  }

  put(file: Lying): void {
    expect(this.folder.has(placeKey(file))).toBe(false);
    this.folder.set(placeKey(file), file);
  }

  recipeOf({ masterId, presetId, part }: OutputOf): string {
    const { preset } = this.presets.find(({ id }) => id === presetId)!;
    return `${masterId} ${presetId} ${part || preset.size.px} ${preset.file.type}`;
  }

  /** What lies there, by its path: what it is, but for when it was made. */
  listed(): Record<string, string> {
    const files = [...this.folder.values()].map(
      (file) => [joinPath(file.folder, file.fileName), file.isOurs ? file.recipe : 'stays'] as const,
    );
    return Object.fromEntries(files.sort(([a], [b]) => (a < b ? -1 : 1)));
  }
}

const counted = (text: string) => [
  { part: 'text', text },
  { part: 'counter', digits: 2, start: 1, step: 1 },
];

const presetOf = (
  id: string,
  { parts, ...more }: { parts: object[]; existing?: string; folder?: string; file?: object; size?: { px?: number; sizes?: object[] } },
) => {
  // What tells the sizes of a family apart.
  const name = { parts: more.size?.sizes ? [...parts, { part: 'size' }] : parts };
  return { id, preset: Preset.parse({ kind: 'rundle.preset', version: 1, title: id, folder: '', name, ...more }) };
};

const sizes = (...labels: string[]) => ({ sizes: labels.map((label) => ({ label, px: 480 })) });

const change = fc.record({
  which: fc.constantFrom(0, 1),
  parts: fc.constantFrom(counted('a-'), counted('b-'), counted('c-'), [{ part: 'original' }]),
  existing: fc.constantFrom('replace', 'keep-both', 'leave'),
  folder: fc.constantFrom('', 'l'),
  file: fc.constantFrom({ type: 'jpeg' }, { type: 'webp' }),
  size: fc.constantFrom({ px: 900 }, { px: 1200 }, sizes('s', 'l'), sizes('l', 'm')),
});
const at = fc.nat(5);
const step = fc.oneof(
  fc.record({ do: fc.constant('add' as const), at }),
  fc.record({ do: fc.constant('remove' as const), at }),
  fc.record({ do: fc.constant('move' as const), at, to: at }),
  fc.record({ do: fc.constant('change' as const), change }),
  fc.record({
    do: fc.constant('run' as const),
    earlier: fc.constantFrom('go' as const, 'keep' as const),
    makes: fc.constantFrom(0, 1, 3, 99),
  }),
  fc.record({ do: fc.constant('run-some' as const), earlier: fc.constantFrom('go' as const, 'keep' as const), at }),
  fc.record({ do: fc.constant('delete' as const), at }),
  fc.record({ do: fc.constant('edit' as const), at }),
  fc.record({ do: fc.constant('stranger' as const), fileName: fc.constantFrom('a-01.jpg', 'b-02.jpg', 'p1.jpg', 'a-03.webp') }),
);

describe('files of earlier runs', () => {
  it('after whatever changes, a run leaves exactly what a fresh studio would make, beside what is not ours', () => {
    fc.assert(
      fc.property(fc.array(step, { maxLength: 25 }), (steps) => {
        const studio = new Studio();
        studio.pictures = ['p0', 'p1', 'p2', 'p3'];
        for (const one of steps) {
          const files = [...studio.folder.values()];
          switch (one.do) {
            case 'add':
              if (!studio.pictures.includes(`p${one.at}`)) studio.pictures.push(`p${one.at}`);
              break;
            case 'remove':
              studio.pictures.splice(one.at, 1);
              break;
            case 'move':
              studio.pictures.splice(one.to, 0, ...studio.pictures.splice(one.at, 1));
              break;
            case 'change': {
              const { which, ...values } = one.change;
              studio.presets[which] = presetOf(studio.presets[which]!.id, values);
              break;
            }
            case 'run':
              studio.run(one.earlier, one.makes === 99 ? {} : { makes: one.makes });
              break;
            case 'run-some':
              studio.run(one.earlier, { only: studio.pictures.slice(one.at, one.at + 2) });
              break;
            case 'delete':
              if (files[one.at]) studio.folder.delete(placeKey(files[one.at]!));
              break;
            case 'edit':
              if (files[one.at]) files[one.at]!.isOurs = false;
              break;
            case 'stranger': {
              const stranger = { target: '', folder: '', fileName: one.fileName };
              if (!studio.folder.has(placeKey(stranger)))
                studio.put({
                  ...stranger,
                  outputId: '',
                  masterId: '',
                  presetId: '',
                  part: '',
                  recipe: '',
                  isCurrent: false,
                  isOurs: false,
                });
            }
          }
        }
        const fresh = new Studio();
        fresh.pictures = studio.pictures;
        fresh.presets = studio.presets;
        for (const file of studio.folder.values()) if (!file.isOurs) fresh.put({ ...file });
        fresh.run('go');
        studio.run('go');
        expect(studio.listed()).toEqual(fresh.listed());
      }),
      { numRuns: 400 },
    );
  });

  it('nothing is taken away, and numbers that were given stay, where nobody says otherwise', () => {
    const studio = new Studio();
    studio.pictures = ['p0', 'p1', 'p2'];
    studio.run('keep');
    studio.pictures = ['p0', 'p2', 'p3'];
    studio.run('keep');
    expect(studio.listed()).toMatchObject({
      'a-01.jpg': 'p0 small 2048 jpeg',
      'a-02.jpg': 'p1 small 2048 jpeg',
      'a-03.jpg': 'p2 small 2048 jpeg',
    });
    expect(studio.listed()['a-04.jpg']).toBe('p3 small 2048 jpeg');
    expect(Object.keys(studio.listed())).toHaveLength(8);
  });

  it('says what becomes of them, and how many', () => {
    const studio = new Studio();
    studio.pictures = ['p0', 'p1', 'p2', 'p3'];
    studio.run('go');
    studio.pictures = ['p0', 'p2', 'p3'];
    const files = [...studio.folder.values()].map((file) => ({ ...file, isInSet: studio.pictures.includes(file.masterId) }));
    const told = earlierFilesOf(movesOf(studio.plan('go'), files, true));
    expect(told).toMatchObject({
      renamed: 4,
      removed: 2,
      madeAnew: 0,
      copies: 0,
      names: expect.arrayContaining([
        { from: 'a-03.jpg', to: 'a-02.jpg' },
        { from: 'a-02.jpg', to: null },
      ]) as unknown,
    });
    expect(earlierSentence(told, 'go')).toBe(
      '4 files of an earlier name or place get their new one; 2 files of pictures that were removed go.',
    );
    expect(earlierSentence({ ...told, renamed: 0, removed: 1 }, 'keep')).toBe('1 file of a picture that was removed stays.');
    expect(earlierSentence({ ...told, renamed: 0, removed: 0 }, 'go')).toBeNull();
  });
});
