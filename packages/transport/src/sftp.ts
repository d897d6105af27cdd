import { createReadStream } from 'node:fs';
import { posix } from 'node:path';
import type { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { ProblemError, type Receiver } from '@rundle/core';
import SftpClient from 'ssh2-sftp-client';
import { longestFor } from './bounded-fetch';
import { Destination, type Found, foldersAbove, inTheWay, type SentFile } from './destination';
import { fingerprintOf, NotTrusted } from './trust';

/** A host that says nothing for so long is asked whether it is there, ms, and given up after three times. */
const PATIENCE = 15_000;

type Sftp = Extract<Receiver, { kind: 'sftp' }>;

/** Opens a web space by SFTP, after the host has shown the key that is trusted. */
export async function openSftp({ host, port, user, folder, trusted }: Sftp, secret: string): Promise<Destination> {
  const client = new SftpClient('rundle', { error: () => {}, end: () => {}, close: () => {} });
  const { client: line } = client as unknown as { client: Line };
  // What waits for an answer is not told by the package in every case that its line has broken.
  const broken = new Promise<never>((_, reject) =>
    line.once('close', () => reject(Object.assign(new Error('The line broke.'), { code: 'ECONNRESET' }))),
  );
  broken.catch(() => {});
  let shown = '';
  const isKey = secret.includes('PRIVATE KEY-----');
  try {
    await client.connect({
      host,
      port,
      username: user,
      ...(isKey ? { privateKey: secret } : { password: secret }),
      hostVerifier: (key: Buffer) => {
        shown = fingerprintOf(key);
        return shown === trusted;
      },
      readyTimeout: 30_000,
      keepaliveInterval: PATIENCE,
      keepaliveCountMax: 3,
    });
  } catch (error) {
    if (shown && trusted === null)
      throw new NotTrusted(shown, `${host} has not been trusted yet. Compare its key with what its owner says.`);
    if (shown && shown !== trusted)
      throw new NotTrusted(shown, `${host} shows another key than the one that is trusted. Ask its owner before anything is sent.`);
    if (/authentication/i.test(String(error)))
      throw new ProblemError({ code: 'signed-out', message: `${host} does not know the user, or not with this password or key.` });
    if (/privateKey|passphrase/i.test(String(error)))
      throw new ProblemError({ code: 'signed-out', message: `The private key for ${host} cannot be read. Paste an unencrypted one.` });
    throw error;
  }
  // Every small file would cost half a second otherwise (Nagle's algorithm, RFC 896).
  line.setNoDelay(true);
  const base = folder.startsWith('/') ? folder : posix.join(await Promise.race([client.cwd(), broken]), folder);
  return new SftpSpace(client, base, host, broken);
}

/** As `stat`, not following a link; the types of the package leave it out. */
interface LinkStat {
  lstat: SftpClient['stat'];
}

/** What the package's client keeps to itself of its line. */
interface Line {
  setNoDelay(on: boolean): void;
  once(event: 'close', act: () => void): void;
}

class SftpSpace extends Destination {
  private readonly there = new Map<string, Promise<unknown>>();

  constructor(
    private readonly client: SftpClient,
    private readonly base: string,
    private readonly host: string,
    /** Rejected when the line breaks. */
    private readonly broken: Promise<never>,
  ) {
    super();
  }

  async close(): Promise<void> {
    await Promise.race([this.client.end(), this.broken]).catch(() => {});
  }

  protected async look(path: string): Promise<Found | null> {
    const found = await (this.client as SftpClient & LinkStat).lstat(this.at(path)).catch((error: unknown) => {
      if (codeOf(error) === 'ENOENT') return null;
      throw error;
    });
    if (found === null) return null;
    return found.isFile ? { bytes: found.size } : 'no-file';
  }

  protected read(path: string): Promise<Readable> {
    return Promise.resolve(this.client.createReadStream(this.at(path)) as Readable);
  }

  protected async upload({ from, to, bytes }: SentFile, aside: string): Promise<void> {
    await this.folder(this.base);
    for (const folder of foldersAbove(to)) await this.folder(this.at(folder));
    const begun = await this.sizeOf(aside);
    // What came before the line broke need not come again: its name is that of its content.
    const start = begun !== null && begun <= bytes ? begun : 0;
    if (start < bytes || begun === null) {
      const flags = start > 0 ? 'r+' : 'w';
      const source = createReadStream(from, start > 0 ? { start } : {});
      await pipeline(source, this.client.createWriteStream(this.at(aside), { flags, start } as never));
    }
    if ((await this.sizeOf(aside)) === bytes) return;
    await this.discard(aside);
    throw new Error(`${to} has not come whole`);
  }

  /** In one step where the host knows how (OpenSSH's posix-rename), so that there is always the old file or the new. */
  protected async move(aside: string, { to }: SentFile, replaces: boolean): Promise<void> {
    const [from, place] = [this.at(aside), this.at(to)];
    if (replaces) {
      const isMoved = await this.client.posixRename(from, place).then(
        () => true,
        () => false,
      );
      if (isMoved || (await this.look(aside)) === null) return; // it was moved, and the answer was lost
      await this.client.delete(place, true);
    }
    // A name that is taken is an error (draft-ietf-secsh-filexfer-02, 6.5).
    await this.client.rename(from, place).catch(async (error: unknown) => {
      if ((await this.look(aside)) === null) return;
      if (replaces || (await this.look(to)) === null) throw error;
      await this.discard(aside);
      throw inTheWay(to);
    });
  }

  protected async discard(path: string): Promise<void> {
    await this.client.delete(this.at(path), true);
  }

  protected async guard<T>(act: () => Promise<T>, _path: string, bytes: number): Promise<T> {
    let timer: NodeJS.Timeout | undefined;
    const late = new Promise<never>((_, reject) => {
      const error = Object.assign(new Error('It answers too slowly.'), { code: 'ETIMEDOUT' });
      timer = setTimeout(() => reject(error), longestFor(bytes));
    });
    try {
      return await Promise.race([act().catch((error: unknown) => this.told(error)), this.broken, late]);
    } finally {
      clearTimeout(timer);
    }
  }

  private at(path: string): string {
    return posix.join(this.base, path);
  }

  private async sizeOf(path: string): Promise<number | null> {
    const found = await this.look(path);
    return found === null || found === 'no-file' ? null : found.bytes;
  }

  private folder(path: string): Promise<unknown> {
    let making = this.there.get(path);
    if (!making) {
      making = this.client.mkdir(path, true).catch(async (error: unknown) => {
        if ((await this.client.exists(path)) !== 'd') return this.told(error);
      });
      making.catch(() => this.there.delete(path));
      this.there.set(path, making);
    }
    return making;
  }

  private told(error: unknown): never {
    // SSH_FX_PERMISSION_DENIED and SSH_FX_FAILURE (draft-ietf-secsh-filexfer-02, 7): the second is what most hosts say of a full disk.
    const code = error instanceof Error && 'code' in error ? error.code : null;
    if (error instanceof ProblemError) throw error;
    if (code === 3 || /permission denied/i.test(String(error)))
      throw new ProblemError({ code: 'receiver-refused', message: `${this.host} does not allow to write there.` });
    throw error;
  }
}

/** The package tells a missing file by a word, the protocol by a number (7: SSH_FX_NO_SUCH_FILE). */
const codeOf = (error: unknown): string => {
  const code = error instanceof Error && 'code' in error ? error.code : '';
  return code === 2 ? 'ENOENT' : String(code);
};
