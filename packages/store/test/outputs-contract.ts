import { createHash, randomUUID } from 'node:crypto';
import { existsSync, writeFileSync } from 'node:fs';
import { beforeEach, describe, expect, it } from 'vitest';
import { AttemptOver, type FinishedFile, type OutputPlace, type Outputs } from '../src/files/outputs';

/** What every place that outputs can go to has to do; an object store will have to pass it unchanged. */
export function outputsContract(what: string, make: () => Promise<Outputs>, target?: () => string): void {
  describe(`outputs in ${what}`, () => {
    let outputs: Outputs;
    let place: OutputPlace;
    beforeEach(async () => {
      outputs = await make();
      place = { target: target?.() ?? `Evening ${randomUUID().slice(0, 8)}`, folder: 'web/large', fileName: 'été 1.jpg' };
    });

    const hash = (text: string) => createHash('sha256').update(text).digest('hex');
    async function made(id: string, attempt: number, text: string): Promise<FinishedFile> {
      const path = await outputs.workFile(place.target, id, attempt, '.jpg');
      writeFileSync(path, text);
      return { path, content: hash(text) };
    }
    async function standing(): Promise<string | null> {
      const file = await outputs.open(place);
      if (!file) return null;
      const parts: Buffer[] = [];
      for await (const part of file.read()) parts.push(part as Buffer);
      return Buffer.concat(parts).toString('utf8');
    }

    it('stand in their place whole, or not at all', async () => {
      const file = await made(randomUUID(), 1, 'first');
      expect(await outputs.standing(place.target, [place.folder])).toEqual(new Map());
      expect(await standing()).toBeNull();
      await outputs.commit(file, place, false);
      expect(await standing()).toBe('first');
      expect(existsSync(file.path)).toBe(false);
      expect(await outputs.standing(place.target, [place.folder], 60_000)).toEqual(
        new Map([['web/large/été 1.jpg', expect.stringMatching(/^\d+ \d+ 5 /) as string]]),
      );
      expect([await outputs.holds(place, hash('first')), await outputs.holds(place, hash('other'))]).toEqual([true, false]);
    });

    it('are this output already where the same content stands, and are never written over otherwise, unless told so', async () => {
      const id = randomUUID();
      await outputs.commit(await made(id, 1, 'mine'), place, false);
      await outputs.commit(await made(id, 2, 'mine'), place, false);
      await expect(outputs.commit(await made(id, 3, 'another'), place, false)).rejects.toMatchObject({ problem: { code: 'exists' } });
      expect(await standing()).toBe('mine');
      await outputs.commit(await made(id, 4, 'another'), place, true, [hash('mine')]);
      expect(await standing()).toBe('another');
    });

    it('of an older attempt can be put in place no more once a newer one has begun', async () => {
      const [id, other] = [randomUUID(), randomUUID()];
      const [late, mine, others] = [await made(id, 1, 'late'), await made(id, 2, 'mine'), await made(other, 1, 'other')];
      await outputs.dropOlder([{ id, target: place.target }], 2);
      await expect(outputs.commit(late, place, true, [])).rejects.toBeInstanceOf(AttemptOver);
      expect([existsSync(mine.path), existsSync(others.path)]).toEqual([true, true]);
      await outputs.commit(mine, place, false);
      expect(await standing()).toBe('mine');
    });

    it('that are unfinished are swept when their attempt is over, and only then', async () => {
      const [open, over] = [randomUUID(), randomUUID()];
      const [going, gone] = [await made(open, 7, 'x'), await made(over, 3, 'y')];
      const swept = await outputs.sweep([place.target], (ids) => {
        expect([...ids].sort()).toEqual([open, over].sort());
        return Promise.resolve(new Set([`${open}.7`, `${over}.4`]));
      });
      expect([swept, existsSync(going.path), existsSync(gone.path)]).toEqual([1, true, false]);
    });

    it('are taken and put elsewhere, swapped and deleted, but only as they were made, and never over a stranger’s', async () => {
      const [one, other] = [randomUUID(), randomUUID()];
      const second = { ...place, fileName: 'b.jpg' };
      const mark = await outputs.commit(await made(one, 1, 'one'), place, false);
      await outputs.commit(await made(other, 1, 'other'), second, false);
      const there = () => outputs.standing(place.target, [place.folder]);
      expect((await there()).get('web/large/été 1.jpg')).toBe(mark);
      expect(await outputs.take(place, one, hash('something else'), place.target)).toBe(false);
      expect(await outputs.take(place, one, hash('one'), place.target)).toBe(true);
      expect(await outputs.take(place, one, hash('one'), place.target)).toBe(true);
      await expect(outputs.putTaken(one, second, hash('one'))).rejects.toMatchObject({ problem: { code: 'exists' } });
      expect(await outputs.take(second, other, hash('other'), place.target)).toBe(true);
      expect(await there()).toEqual(new Map());
      const put = await outputs.putTaken(other, place, hash('other'));
      expect([(await there()).get('web/large/été 1.jpg'), await standing()]).toEqual([put?.mark, 'other']);
      expect(await outputs.putTaken(other, place, hash('other'))).toBeNull();
      await outputs.dropTaken(one, place.target);
      await outputs.dropTaken(one, place.target);
      expect(await outputs.putTaken(one, second, hash('one'))).toBeNull();
    });

    it('are read in parts, and told by their weight', async () => {
      await outputs.commit(await made(randomUUID(), 1, 'abcdef'), place, false);
      const file = (await outputs.open(place))!;
      expect(file.bytes).toBe(6);
      const parts: Buffer[] = [];
      for await (const part of file.read({ start: 2, end: 3 })) parts.push(part as Buffer);
      expect(Buffer.concat(parts).toString()).toBe('cd');
      const free = await outputs.freeBytes();
      expect(free === null || free > 0).toBe(true);
      const path = outputs.pathOf(place.target);
      if (path !== null) expect(path).toContain(place.target);
    });
  });
}
