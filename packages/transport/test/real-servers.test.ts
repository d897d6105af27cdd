import { createHash, randomBytes } from 'node:crypto';
import { mkdtempSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { Receiver } from '@rundle/core';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { NotTrusted, openWebSpace, tryReceiver } from '../src';
import { BreakingLine } from './breaking-line';
import { destinationContract, NOTHING_ON_RECORD } from './destination-contract';
import { openApache, openSsh, type RealServer } from './real-servers';

type Space = Exclude<Receiver, { kind: 'smtp' }>;
interface Door {
  receiver: Space;
  secret: string;
  server: RealServer;
  /** The same over another port. */
  over: (port: number) => Space;
}

const files = mkdtempSync(join(tmpdir(), 'rundle-sent-'));
const doors: Partial<Record<'OpenSSH' | 'Apache', Door>> = {};

beforeAll(async () => {
  const [ssh, apache] = [await openSsh(), await openApache()];
  const sftp = { kind: 'sftp', title: 'OpenSSH', host: '127.0.0.1', user: ssh.user, trusted: ssh.fingerprint, folder: ssh.root };
  const overSsh = (port: number) => Receiver.parse({ ...sftp, port }) as Space;
  const overApache = (port: number) =>
    Receiver.parse({ kind: 'webdav', title: 'Apache', address: `http://127.0.0.1:${port}`, user: apache.user }) as Space;
  doors.OpenSSH = { receiver: overSsh(ssh.ports[0]!), over: overSsh, secret: ssh.key, server: ssh };
  doors.Apache = { receiver: overApache(apache.ports[0]!), over: overApache, secret: apache.password, server: apache };
});
afterAll(async () => {
  for (const { server } of Object.values(doors)) await server.end();
});

function file(name: string, bytes: number): { path: string; content: Buffer; sha256: string } {
  const content = randomBytes(bytes);
  const path = join(files, name);
  writeFileSync(path, content);
  return { path, content, sha256: createHash('sha256').update(content).digest('hex') };
}
const below = (folder: string) => readdirSync(folder, { recursive: true, encoding: 'utf8' }).sort();

describe.each(['OpenSSH', 'Apache'] as const)('a web space of %s', (name) => {
  const door = () => doors[name]!;

  destinationContract(async () => ({ root: door().server.root, destination: await openWebSpace(door().receiver, door().secret) }));

  it('gets a file whole over a line that breaks, and nothing half is ever seen under its name', async () => {
    const { over, secret, server } = door();
    const line = await BreakingLine.open(server.ports[0]!, 3, 400_000);
    const { path, content, sha256 } = file('large', 1_500_000);
    let tries = 0;
    for (let done = false; !done; tries++) {
      if (tries > 8) throw new Error('it never comes whole');
      try {
        const space = await openWebSpace(over(line.port), secret);
        await space.put({ from: path, to: 'large.jpg', bytes: content.length, sha256 }, NOTHING_ON_RECORD);
        await space.close();
        done = true;
      } catch {
        expect(below(server.root)).not.toContain('large.jpg');
      }
    }
    expect(tries).toBeGreaterThan(1);
    expect(readFileSync(join(server.root, 'large.jpg')).equals(content)).toBe(true);
    expect(below(server.root).filter((one) => one.endsWith('.part'))).toEqual([]);
    line.close();
  });

  it('is tried without leaving anything, and says who is not let in', async () => {
    const { receiver, secret, server } = door();
    const before = below(server.root);
    expect(await tryReceiver(receiver, secret)).toMatchObject({ is: 'fine' });
    expect(below(server.root)).toEqual(before);
    expect((await tryReceiver({ ...receiver, user: 'nobody-here' }, 'wrong')).says).toContain('does not know the user');
  });
});

describe('a certificate for which nobody vouches', () => {
  it('is refused until a person trusts it, and then no other', async () => {
    const { server, secret } = doors.Apache!;
    const secure = (trusted: string | null) =>
      Receiver.parse({
        kind: 'webdav',
        title: 'Apache',
        address: `https://localhost:${server.ports[1]}`,
        user: 'studio',
        trusted,
      }) as Space;
    const refused = await openWebSpace(secure(null), secret).catch((error: unknown) => error);
    expect(refused).toBeInstanceOf(NotTrusted);
    const { fingerprint } = refused as NotTrusted;
    expect(await tryReceiver(secure(fingerprint), secret)).toMatchObject({ is: 'fine' });
    expect(await tryReceiver(secure(`SHA256:${'A'.repeat(43)}`), secret)).toMatchObject({ is: 'unknown', fingerprint });
  });
});
