import { createCipheriv, createDecipheriv, randomBytes } from 'node:crypto';
import { chmod, link, open, readFile, rm } from 'node:fs/promises';
import { join } from 'node:path';
import type { ReceiverRow } from '../database/rows';
import { codeOf } from '@rundle/place';

/** Sizes for AES-256-GCM (NIST SP 800-38D): its nonce and tag, bytes. */
const NONCE = 12;
const TAG = 16;

/** Encrypts passwords and keys under a key that lies beside the database, in a file that only its owner reads: a dump of the database tells none. */
export class Secrets {
  private readonly path: string;

  constructor(data: string) {
    this.path = join(data, 'secrets.key');
  }

  /** @param about what it belongs to: a secret that is put into another row cannot be read there */
  async encrypt(secret: string, about: string): Promise<Buffer> {
    const nonce = randomBytes(NONCE);
    const cipher = createCipheriv('aes-256-gcm', await this.key(), nonce).setAAD(Buffer.from(about));
    const encrypted = Buffer.concat([cipher.update(secret, 'utf8'), cipher.final()]);
    return Buffer.concat([nonce, cipher.getAuthTag(), encrypted]);
  }

  /** @throws Error when it was encrypted under another key, or for something else */
  async decrypt(stored: Buffer, about: string): Promise<string> {
    const cipher = createDecipheriv('aes-256-gcm', await this.key(), stored.subarray(0, NONCE), { authTagLength: TAG });
    cipher.setAAD(Buffer.from(about)).setAuthTag(stored.subarray(NONCE, NONCE + TAG));
    return Buffer.concat([cipher.update(stored.subarray(NONCE + TAG)), cipher.final()]).toString('utf8');
  }

  /** The key; made when it is first needed. */
  private async key(): Promise<Buffer> {
    const known = await this.read();
    if (known) return known;
    // Written aside and linked into place: of two that make one at once, both use the first.
    const aside = `${this.path}.${randomBytes(6).toString('hex')}`;
    const file = await open(aside, 'wx', 0o600);
    try {
      await file.writeFile(randomBytes(32));
      await file.sync();
    } finally {
      await file.close();
    }
    await link(aside, this.path).catch((error: unknown) => {
      if (codeOf(error) !== 'EEXIST') throw error;
    });
    await rm(aside, { force: true });
    return (await this.read())!;
  }

  private async read(): Promise<Buffer | null> {
    const key = await readFile(this.path).catch((error: unknown) => {
      if (codeOf(error) === 'ENOENT') return null;
      throw error;
    });
    if (key === null) return null;
    if (key.length !== 32) throw new Error(`${this.path} is no key of 32 bytes. Put back the file that belongs to this data folder.`);
    await chmod(this.path, 0o600); // it may have come back from a copy
    return key;
  }
}

/** What is secret of a receiver; empty: nothing. */
export const secretOf = async ({ id, secret }: Pick<ReceiverRow, 'id' | 'secret'>, secrets: Secrets): Promise<string> =>
  secret === null ? '' : secrets.decrypt(secret, id);
