import { execFileSync } from 'node:child_process';
import { createHash, randomBytes } from 'node:crypto';
import { chmodSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { open } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import type { Destination, OnRecord, SentFile } from '../src';

export const NOTHING_ON_RECORD: OnRecord = { hasBytes: () => Promise.resolve(false), has: () => Promise.resolve(false) };

interface Place {
  /** Folder of this machine in which what is sent comes to lie. */
  root: string;
  destination: Destination;
}

const below = (folder: string) => readdirSync(folder, { recursive: true, encoding: 'utf8' }).sort();
const files = mkdtempSync(join(tmpdir(), 'rundle-going-'));

/** What every place that files are delivered to has to do, whoever else writes to it. */
export function destinationContract(openPlace: () => Promise<Place>): void {
  describe('as any place that files are delivered to', () => {
    let place: Place;
    const contents = new Map<string, number>();
    /** Places are not empty: each test works in a folder of its own. */
    let sub = '';
    const ours: OnRecord = {
      hasBytes: (bytes) => Promise.resolve([...contents.values()].includes(bytes)),
      has: (sha256) => Promise.resolve(contents.has(sha256)),
    };
    beforeEach(async () => {
      place = await openPlace();
      sub = `sub ${randomBytes(4).toString('hex')}`;
    });
    afterEach(() => place.destination.close());

    function file(to: string, content: Buffer): SentFile {
      const sha256 = createHash('sha256').update(content).digest('hex');
      const from = join(files, sha256);
      writeFileSync(from, content);
      return { from, to, bytes: content.length, sha256 };
    }
    async function send(to: string, content: Buffer): Promise<string> {
      const one = file(to, content);
      const state = await place.destination.put(one, ours);
      contents.set(one.sha256, one.bytes);
      return state;
    }
    const there = (path: string) => readFileSync(join(place.root, path));
    function plant(path: string, content: string): void {
      mkdirSync(dirname(join(place.root, path)), { recursive: true });
      chmodSync(dirname(join(place.root, path)), 0o777);
      writeFileSync(join(place.root, path), content);
      chmodSync(join(place.root, path), 0o666);
    }

    it('takes files whole, in folders and under names of any letters, in place of what was ours, and lets them go again', async () => {
      const { destination } = place;
      const [first, second] = [randomBytes(300_000), randomBytes(70_000)];
      const path = 'évening, two/web & more/quay 1.jpg';
      expect(await send(path, first)).toBe('sent');
      expect(there(path).equals(first)).toBe(true);
      expect(await send(path, first)).toBe('kept');
      expect(await send(path, second)).toBe('sent');
      expect(there(path).equals(second)).toBe(true);
      expect([await destination.holds(path, 70_000), await destination.holds(path, 70_001), await destination.holds('nothing', 1)]).toEqual(
        [true, false, false],
      );
      const own = file(path, second);
      expect(await destination.remove(path, own)).toBe(true);
      expect(await destination.remove(path, own)).toBe(true);
      expect(below(place.root).filter((one) => one.includes('quay'))).toEqual([]);
    });

    it('never replaces or removes what it was not sent by us, or is that no longer, and says which', async () => {
      const refused = { problem: { code: 'exists', file: expect.stringContaining('.jpg') as string } };
      plant(`${sub}/stranger.jpg`, 'somebody else’s');
      await expect(send(`${sub}/stranger.jpg`, randomBytes(50))).rejects.toMatchObject(refused);
      // As heavy as one of ours, and as the new one.
      const ours = randomBytes(9);
      await send(`${sub}/ours.jpg`, ours);
      for (const bytes of [9, 10]) {
        plant(`${sub}/ours.jpg`, 'retouched');
        await expect(send(`${sub}/ours.jpg`, randomBytes(bytes))).rejects.toMatchObject(refused);
      }
      expect(await place.destination.remove(`${sub}/ours.jpg`, file(`${sub}/ours.jpg`, ours))).toBe(false);
      mkdirSync(join(place.root, `${sub}/folder.jpg`));
      await expect(send(`${sub}/folder.jpg`, randomBytes(9))).rejects.toMatchObject(refused);
      expect([there(`${sub}/stranger.jpg`), there(`${sub}/ours.jpg`)].map(String)).toEqual(['somebody else’s', 'retouched']);
      expect(below(place.root).filter((one) => one.endsWith('.part'))).toEqual([]);
    });

    it('leaves what somebody puts there while a file is under way', async () => {
      const content = randomBytes(200_000);
      const name = `meanwhile ${randomBytes(4).toString('hex')}.jpg`;
      const one = file(name, content);
      const slow = join(files, `slow-${randomBytes(6).toString('hex')}`);
      execFileSync('mkfifo', [slow]);
      const sent = place.destination.put({ ...one, from: slow }, ours).catch((error: unknown) => error);
      const pipe = await open(slow, 'w');
      await pipe.write(content.subarray(0, 100_000));
      plant(name, 'somebody was faster');
      await pipe.write(content.subarray(100_000));
      await pipe.close();
      expect(await sent).toMatchObject({ problem: { code: 'exists', file: name } });
      expect(there(name).toString()).toBe('somebody was faster');
      expect(below(place.root).filter((one) => one.endsWith('.part'))).toEqual([]);
    });
  });
}
