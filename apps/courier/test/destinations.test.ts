import { createHash } from 'node:crypto';
import { mkdirSync, mkdtempSync, readdirSync, readFileSync, symlinkSync, writeFileSync } from 'node:fs';
import { request } from 'node:http';
import { createServer } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { Receiver } from '@rundle/core';
import { PORTS, type StandIns, startStandIns } from '@rundle/stand-ins';
import { openWebSpace } from '@rundle/transport';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { destinationContract, NOTHING_ON_RECORD } from '../../../packages/transport/test/destination-contract';
import { FolderDestination } from '../src/ways/folder-destination';

const PAGES = fileURLToPath(new URL('../../../stand-ins', import.meta.url));
const folder = () => mkdtempSync(join(tmpdir(), 'rundle-destination-'));

describe('a folder of the machine', () => {
  destinationContract(() => {
    const root = folder();
    return Promise.resolve({ root, destination: new FolderDestination(root, [root]) });
  });

  it('is written to below the folders that are allowed only, also where a link leads out of them', async () => {
    const [allowed, forbidden, from] = [folder(), folder(), join(folder(), 'a')];
    writeFileSync(from, 'a picture');
    const file = { from, bytes: 9, sha256: '0'.repeat(64) };
    mkdirSync(join(allowed, 'within'));
    symlinkSync(join(allowed, 'within'), join(allowed, 'link'));
    for (const name of ['out', 'nowhere']) symlinkSync(name === 'out' ? forbidden : join(forbidden, 'none'), join(allowed, name));
    const destination = new FolderDestination(allowed, [allowed]);
    for (const to of ['out/a.jpg', 'out/new/a.jpg', 'nowhere/a.jpg'])
      await expect(destination.put({ ...file, to }, NOTHING_ON_RECORD)).rejects.toMatchObject({
        problem: { code: 'not-written', message: expect.stringContaining(join(allowed, to.split('/')[0]!)) as string },
      });
    expect(readdirSync(forbidden)).toEqual([]);
    // A link that stays within is followed; what does not come out as it went in is not kept.
    await expect(destination.put({ ...file, to: 'link/a.jpg' }, NOTHING_ON_RECORD)).rejects.toMatchObject({
      problem: { code: 'not-written' },
    });
    const sha256 = createHash('sha256').update('a picture').digest('hex');
    expect(await destination.put({ ...file, sha256, to: 'link/a.jpg' }, NOTHING_ON_RECORD)).toBe('sent');
    expect(readdirSync(join(allowed, 'within'))).toEqual(['a.jpg']);
  });
});

describe('the made-up web space', () => {
  let standIns: StandIns;
  let login: { webdav: string; sftp: { port: number; fingerprint: string }; user: string; password: string };
  beforeAll(async () => {
    const data = folder();
    standIns = await startStandIns(data, PAGES, true);
    login = JSON.parse(readFileSync(join(data, 'addresses.json'), 'utf8')) as typeof login;
  });
  afterAll(() => standIns.close());

  const receiver = (kind: 'webdav' | 'sftp'): Exclude<Receiver, { kind: 'smtp' }> => {
    const { user, webdav, sftp } = login;
    const own = kind === 'webdav' ? { kind, address: webdav } : { kind, host: '127.0.0.1', port: sftp.port, trusted: sftp.fingerprint };
    return Receiver.parse({ title: 'Quay Pages', user, ...own }) as Exclude<Receiver, { kind: 'smtp' }>;
  };

  it('goes to any port when its own are taken, and outlives calls that make no sense', async () => {
    const other = createServer();
    // Taken already, or by us: in any case not free.
    await new Promise<void>((resolve) => other.once('error', () => resolve()).listen(PORTS.smtp, '127.0.0.1', resolve));
    const beside = await startStandIns(folder(), PAGES);
    await beside.close();
    other.close();
    const { port } = new URL(login.webdav);
    const raw = (method: string, path: string, headers: Record<string, string> = {}) =>
      new Promise<number>((resolve, reject) => {
        const auth = `${login.user}:${login.password}`;
        const call = request({ host: '127.0.0.1', port, method, path, auth, headers }, (response) => {
          response.resume();
          resolve(response.statusCode ?? 0);
        });
        call.once('error', reject).end();
      });
    expect([
      await raw('PUT', '/dav/%00'),
      await raw('PUT', '/dav/%zz'),
      await raw('COPY', '/dav/a.jpg', { Destination: 'http://%zz' }),
      await raw('MOVE', '/dav/a.jpg', { Destination: 'http://127.0.0.1/elsewhere' }),
      await raw('MOVE', '/dav/a.jpg'),
      await raw('DELETE', '/dav/'),
      await raw('DELETE', '/dav'),
    ]).toEqual([400, 400, 400, 400, 400, 403, 403]);
    expect(await raw('PROPFIND', '/dav/', { Depth: '0' })).toBe(207);
  });

  describe.each(['webdav', 'sftp'] as const)('by %s', (kind) => {
    destinationContract(async () => ({ root: standIns.site, destination: await openWebSpace(receiver(kind), login.password) }));
  });
});
