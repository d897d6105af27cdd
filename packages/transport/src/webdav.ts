import { createReadStream } from 'node:fs';
import { Agent as HttpAgent } from 'node:http';
import { Agent as HttpsAgent } from 'node:https';
import { type Problem, ProblemError, type Receiver } from '@rundle/core';
import { type FileStat, createClient, type WebDAVClient } from 'webdav';
import { asUntrusted, tlsFor } from './trust';
import { asideName, foldersAbove, type WebSpace } from './web-space';

/** A call that is not answered for so long has failed, ms: a line may be slow, and a server may be busy. */
const PATIENCE = 60_000;

type WebDav = Extract<Receiver, { kind: 'webdav' }>;

/** Opens a web space by WebDAV (RFC 4918). */
export async function openWebDav({ address, user, trusted }: WebDav, secret: string): Promise<WebSpace> {
  const url = new URL(address);
  const isSecure = url.protocol === 'https:';
  const port = Number(url.port || (isSecure ? 443 : 80));
  const options = { keepAlive: true, maxSockets: 6, timeout: PATIENCE };
  const agents = {
    httpAgent: new HttpAgent(options),
    httpsAgent: new HttpsAgent({ ...options, ...(isSecure ? await tlsFor(url.hostname, port, trusted) : {}) }),
  };
  const client = createClient(address, { ...agents, ...(user || secret ? { username: user, password: secret } : {}) });
  const told = async (error: unknown, file?: string): Promise<never> => {
    throw asProblem(await asUntrusted(error, url.hostname, port), url.host, file);
  };
  // The first call tells whether the receiver answers and knows the user; a folder that is not there yet is made at the first file.
  await client.stat('/').catch((error: unknown) => (statusOf(error) === 404 ? null : told(error)));
  return new WebDavSpace(client, told, () => {
    agents.httpAgent.destroy();
    agents.httpsAgent.destroy();
  });
}

class WebDavSpace implements WebSpace {
  /** Folders that are there, so that each is asked for once. */
  private readonly there = new Map<string, Promise<void>>();

  constructor(
    private readonly client: WebDAVClient,
    private readonly told: (error: unknown, file?: string) => Promise<never>,
    private readonly end: () => void,
  ) {}

  async put(from: string, to: string, bytes: number, mark: string): Promise<void> {
    const aside = asideName(to, mark);
    try {
      for (const folder of foldersAbove(to)) await this.folder(folder);
      // Some servers take a PUT that ends early for a whole file: its length is looked at before it is moved.
      await this.client.putFileContents(`/${aside}`, createReadStream(from), { overwrite: true, contentLength: bytes });
      if (!(await this.holds(aside, bytes))) throw new Error(`${aside} has not come whole`);
      await this.client.moveFile(`/${aside}`, `/${to}`, { overwrite: true });
      if (!(await this.holds(to, bytes))) throw new Error(`${to} is not there after it was moved`);
    } catch (error) {
      // A connection that broke after the move was made, and before that was said.
      if (statusOf(error) === 404 && (await this.holds(to, bytes).catch(() => false))) return;
      await this.told(error, to);
    }
  }

  async holds(path: string, bytes: number): Promise<boolean> {
    const found = (await this.client.stat(`/${path}`).catch((error: unknown) => {
      if (statusOf(error) === 404) return null;
      throw error;
    })) as FileStat | null;
    return found?.type === 'file' && found.size === bytes;
  }

  async remove(path: string): Promise<void> {
    await this.client.deleteFile(`/${path}`).catch((error: unknown) => (statusOf(error) === 404 ? undefined : this.told(error)));
  }

  close(): Promise<void> {
    this.end();
    return Promise.resolve();
  }

  private folder(path: string): Promise<void> {
    let making = this.there.get(path);
    if (!making) {
      // 405: it is there (RFC 4918, 9.3.1). Two that make it at once may be told other things: what counts is whether it is there.
      making = this.client.createDirectory(`/${path}`).catch(async (error: unknown) => {
        if (statusOf(error) !== 405 && !(await this.client.exists(`/${path}`))) throw error;
      });
      making.catch(() => this.there.delete(path));
      this.there.set(path, making);
    }
    return making;
  }
}

const statusOf = (error: unknown): number => (error instanceof Error && 'status' in error ? Number(error.status) : 0);

/** What a server answered that trying again does not change. */
function asProblem(error: unknown, host: string, file?: string): unknown {
  const problem = (code: Problem['code'], message: string) => new ProblemError({ code, message });
  switch (statusOf(error)) {
    case 401:
      return problem('signed-out', `${host} does not know the user or the password.`);
    case 403:
      return problem('receiver-refused', `${host} does not allow to write there.`);
    case 405:
    case 501:
      return problem('receiver-refused', `${host} is reached, but is no web space by WebDAV at this address.`);
    case 413:
      return new ProblemError({
        code: 'receiver-refused',
        ...(file === undefined ? {} : { file }),
        message: `${host} does not take files as heavy as ${file ?? 'this'}. Send a smaller version.`,
      });
    case 507:
      return problem('receiver-refused', `${host} has no room left.`);
    default:
      return error;
  }
}
