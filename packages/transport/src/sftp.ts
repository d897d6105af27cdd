import { createReadStream } from 'node:fs';
import { posix } from 'node:path';
import { pipeline } from 'node:stream/promises';
import { ProblemError, type Receiver } from '@rundle/core';
import SftpClient from 'ssh2-sftp-client';
import { fingerprintOf, NotTrusted } from './trust';
import { asideName, foldersAbove, type WebSpace } from './web-space';

/** A host that says nothing for so long is asked whether it is there, ms, and given up after three times. */
const PATIENCE = 15_000;

type Sftp = Extract<Receiver, { kind: 'sftp' }>;

/** Opens a web space by SFTP, after the host has shown the key that is trusted. */
export async function openSftp({ host, port, user, folder, trusted }: Sftp, secret: string): Promise<WebSpace> {
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

/** What the package's client keeps to itself of its line. */
interface Line {
  setNoDelay(on: boolean): void;
  once(event: 'close', act: () => void): void;
}

class SftpSpace implements WebSpace {
  private readonly there = new Map<string, Promise<unknown>>();

  constructor(
    private readonly client: SftpClient,
    private readonly base: string,
    private readonly host: string,
    /** Rejected when the line breaks. */
    private readonly broken: Promise<never>,
  ) {}

  put(from: string, to: string, bytes: number, mark: string): Promise<void> {
    return Promise.race([this.putFile(from, to, bytes, mark), this.broken]);
  }

  holds(path: string, bytes: number): Promise<boolean> {
    return Promise.race([this.hasSize(path, bytes), this.broken]);
  }

  remove(path: string): Promise<void> {
    return Promise.race([this.removeFile(path), this.broken]);
  }

  private async putFile(from: string, to: string, bytes: number, mark: string): Promise<void> {
    const aside = this.at(asideName(to, mark));
    await this.folder(this.base);
    for (const folder of foldersAbove(to)) await this.folder(this.at(folder));
    const begun = await this.sizeOf(aside);
    // What came before the line broke need not come again: its name is that of its content.
    const start = begun !== null && begun <= bytes ? begun : 0;
    if (start < bytes || begun === null) {
      const flags = start > 0 ? 'r+' : 'w';
      await pipeline(createReadStream(from, { start }), this.client.createWriteStream(aside, { flags, start } as never)).catch(
        (error: unknown) => this.told(error),
      );
    }
    if ((await this.sizeOf(aside)) !== bytes) {
      await this.client.delete(aside, true);
      throw new Error(`${to} has not come whole`);
    }
    await this.move(aside, this.at(to));
    if (!(await this.hasSize(to, bytes))) throw new Error(`${to} is not there after it was moved`);
  }

  /** In one step where the host knows how (OpenSSH's posix-rename), so that there is always the old file or the new. */
  private async move(from: string, to: string): Promise<void> {
    try {
      await this.client.posixRename(from, to);
    } catch {
      if ((await this.sizeOf(from)) === null) return; // it was moved, and the answer was lost
      await this.client.delete(to, true);
      await this.client.rename(from, to).catch((error: unknown) => this.told(error));
    }
  }

  private async hasSize(path: string, bytes: number): Promise<boolean> {
    return (await this.sizeOf(this.at(path))) === bytes;
  }

  private async removeFile(path: string): Promise<void> {
    await this.client.delete(this.at(path), true).catch((error: unknown) => this.told(error));
  }

  async close(): Promise<void> {
    await Promise.race([this.client.end(), this.broken]).catch(() => {});
  }

  private at(path: string): string {
    return posix.join(this.base, path);
  }

  private async sizeOf(path: string): Promise<number | null> {
    const kind = await this.client.exists(path);
    if (kind === false) return null;
    const { isFile, size } = await this.client.stat(path);
    return isFile ? size : null;
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
    if (code === 3 || /permission denied/i.test(String(error)))
      throw new ProblemError({ code: 'receiver-refused', message: `${this.host} does not allow to write there.` });
    throw error;
  }
}
