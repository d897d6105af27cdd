import { once } from 'node:events';
import { mkdirSync, mkdtempSync, statSync } from 'node:fs';
import { createServer, get, type IncomingMessage, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { Readable } from 'node:stream';
import type { Outputs } from '@rundle/store';
import express, { type NextFunction, type Request, type Response } from 'express';
import { afterEach, describe, expect, it } from 'vitest';
import { sendZip, type ZipRow } from '../src/deliveries/zip';

const BYTES = 300_000;
const rows = ['a', 'b', 'c'].map((name): ZipRow => ({
  path: `${name}.jpg`,
  outputId: name,
  target: 't',
  folder: '',
  fileName: `${name}.jpg`,
  bytes: BYTES,
  sha256: 's',
  mark: 'as made',
}));

/** A folder whose files may go at any moment. */
class Folder {
  /** How often each was opened. */
  readonly opened = new Map<string, number>();
  readonly open: Readable[] = [];

  constructor(private readonly isThere: (name: string, time: number) => boolean) {}

  /** As the store's, for what a ZIP asks of it. */
  outputs(): Outputs {
    const open = ({ fileName }: { fileName: string }) => {
      const time = (this.opened.get(fileName) ?? 0) + 1;
      this.opened.set(fileName, time);
      return Promise.resolve(
        this.isThere(fileName, time) ? { bytes: BYTES, mark: 'as made', read: () => this.read(), close: async () => {} } : null,
      );
    };
    return { open } as unknown as Outputs;
  }

  private read(): Readable {
    let left = BYTES;
    const stream = new Readable({
      read(size) {
        const part = Math.min(size, left);
        left -= part;
        this.push(part ? Buffer.alloc(part, 7) : null);
      },
    });
    this.open.push(stream);
    return stream;
  }
}

let server: Server;
afterEach(() => server.close());

async function serve(folder: Folder, files = rows, made = '/nowhere'): Promise<string> {
  const app = express();
  app.get('/', (request, response, next) => {
    const about = { title: 'Quay', at: new Date(0), tag: 'x' };
    sendZip(files, { outputs: folder.outputs(), made }, about, { request, response }).catch(next);
  });
  app.use((error: { status?: number; code?: string }, _: Request, response: Response, next: NextFunction) => {
    if (response.headersSent) next(error);
    else response.status(error.status ?? 500).send(error.code);
  });
  server = createServer(app).listen(0, '127.0.0.1');
  await once(server, 'listening');
  return `http://127.0.0.1:${(server.address() as AddressInfo).port}/`;
}
const answer = (url: string): Promise<IncomingMessage> => new Promise((resolve, reject) => get(url, resolve).once('error', reject));

describe('a ZIP', () => {
  it.each(['a.jpg', 'c.jpg'])('says at once that %s has gone, also where that was still there a moment ago', async (name) => {
    // The first is opened while the others are still being named.
    const folder = new Folder((file, time) => file !== name || (name === 'a.jpg' && time === 1));
    const response = await fetch(await serve(folder));
    expect([response.status, await response.text()]).toEqual([409, 'output-missing']);
    await expect.poll(() => folder.open.every(({ destroyed }) => destroyed)).toBe(true);
  });

  it('breaks off when one goes half-way, so that nobody takes it for whole', async () => {
    const response = await answer(await serve(new Folder((file, time) => file !== 'c.jpg' || time === 1)));
    expect(Number(response.headers['content-length'])).toBeGreaterThan(3 * BYTES);
    response.resume();
    await once(response, 'close').catch(() => {});
    expect(response.complete).toBe(false);
  });

  it('keeps nothing open for who has left', async () => {
    const folder = new Folder(() => true);
    const response = await answer(await serve(folder));
    await once(response, 'data');
    response.destroy();
    await expect.poll(() => folder.open.length > 0 && folder.open.every(({ destroyed }) => destroyed)).toBe(true);
  });

  it('of a file that cannot be read breaks off, and the server goes on', async () => {
    // A folder has a size, and can be opened, but not read.
    const made = mkdtempSync(join(tmpdir(), 'rundle-zip-'));
    mkdirSync(join(made, 'a.jpg'));
    const bytes = statSync(join(made, 'a.jpg')).size;
    const url = await serve(new Folder(() => true), [{ ...rows[0]!, outputId: null, bytes }], made);
    await expect(fetch(url).then((response) => response.arrayBuffer())).rejects.toThrow();
    expect((await fetch(url)).status).toBe(200);
  });
});
