import { createReadStream } from 'node:fs';
import { Agent as HttpAgent } from 'node:http';
import { Agent as HttpsAgent } from 'node:https';
import type { Readable } from 'node:stream';
import type { RequestInit, Response } from 'node-fetch';
import { type Problem, ProblemError, type Receiver } from '@rundle/core';
import { type FileStat, createClient, getPatcher, type WebDAVClient } from 'webdav';
import { boundedFetch, endsAfter, PATIENCE } from './bounded-fetch';
import { Destination, type Found, foldersAbove, inTheWay, type SentFile } from './destination';
import { asUntrusted, tlsFor } from './trust';

type WebDav = Extract<Receiver, { kind: 'webdav' }>;

// Of all that the package asks.
getPatcher().patch('fetch', (...[address, options]: unknown[]) => boundedFetch(address as string, options as RequestInit));

/** Opens a web space by WebDAV (RFC 4918). */
export async function openWebDav({ address, user, trusted }: WebDav, secret: string): Promise<Destination> {
  const url = new URL(address);
  const isSecure = url.protocol === 'https:';
  const port = Number(url.port || (isSecure ? 443 : 80));
  const options = { keepAlive: true, maxSockets: 6, timeout: PATIENCE };
  const agents = {
    httpAgent: new HttpAgent(options),
    httpsAgent: new HttpsAgent({ ...options, ...(isSecure ? await tlsFor(url.hostname, port, trusted) : {}) }),
  };
  // In UTF-8 (RFC 7617, 2.1): the package knows Latin letters only.
  const credentials = `Basic ${Buffer.from(`${user}:${secret}`).toString('base64')}`;
  const client = createClient(address, { ...agents, ...(user || secret ? { headers: { Authorization: credentials } } : {}) });
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

class WebDavSpace extends Destination {
  /** Folders that are there, so that each is asked for once. */
  private readonly there = new Map<string, Promise<void>>();

  constructor(
    private readonly client: WebDAVClient,
    private readonly told: (error: unknown, file?: string) => Promise<never>,
    private readonly end: () => void,
  ) {
    super();
  }

  close(): Promise<void> {
    this.end();
    return Promise.resolve();
  }

  protected async look(path: string): Promise<Found | null> {
    const found = (await this.client.stat(`/${path}`).catch(unlessMissing)) as FileStat | null;
    if (found === null) return null;
    return found.type === 'file' ? { bytes: found.size } : 'no-file';
  }

  protected async read(path: string, bytes: number): Promise<Readable> {
    const response = await this.client.customRequest(`/${path}`, { method: 'GET', signal: endsAfter(bytes) });
    return (response as unknown as Response).body as Readable;
  }

  protected async upload({ from, to, bytes }: SentFile, aside: string): Promise<void> {
    for (const folder of foldersAbove(to)) await this.folder(folder);
    // Some servers take a PUT that ends early for a whole file: its length is looked at before it is moved.
    const signal = endsAfter(bytes);
    await this.client.putFileContents(`/${aside}`, createReadStream(from), { overwrite: true, contentLength: bytes, signal });
    const found = await this.look(aside);
    if (found === null || found === 'no-file' || found.bytes !== bytes) throw new Error(`${aside} has not come whole`);
  }

  protected async move(aside: string, { to }: SentFile, replaces: boolean): Promise<void> {
    await this.client.moveFile(`/${aside}`, `/${to}`, { overwrite: replaces }).catch(async (error: unknown) => {
      if (statusOf(error) !== 412) throw error; // there is one by now (RFC 4918, 9.9.4)
      await this.discard(aside);
      throw inTheWay(to);
    });
  }

  protected async discard(path: string): Promise<void> {
    await this.client.deleteFile(`/${path}`).catch(unlessMissing);
  }

  protected guard<T>(act: () => Promise<T>, path: string): Promise<T> {
    return act().catch((error: unknown) => this.told(error, path));
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

const unlessMissing = (error: unknown): null => {
  if (statusOf(error) === 404) return null;
  throw error;
};

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
