import { createServer, type IncomingMessage, type Server, type ServerResponse } from 'node:http';
import { type AddressInfo, createServer as createSocketServer } from 'node:net';
import { Receiver } from '@rundle/core';
import { afterEach, expect, it } from 'vitest';
import { fileURLToPath } from 'node:url';
import { Trials } from '../../../apps/server/src/receivers/trials';
import { tryReceiver } from '../src';

const open: { close: () => unknown }[] = [];
afterEach(() => {
  for (const server of open.splice(0)) server.close();
});

async function serve(answer: (request: IncomingMessage, response: ServerResponse) => void): Promise<{ server: Server; port: number }> {
  const server = createServer(answer);
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  open.push({ close: () => (server.closeAllConnections(), server.close()) });
  return { server, port: (server.address() as AddressInfo).port };
}
const dav = (port: number) => Receiver.parse({ kind: 'webdav', title: 'Q', address: `http://127.0.0.1:${port}/dav`, user: 'Jörg' });

/** Sends as long as somebody takes it. */
function pour(response: ServerResponse): void {
  const more = () => {
    while (!response.destroyed && response.write(Buffer.alloc(64_000, '<a>')));
  };
  response.on('drain', more);
  more();
}

it('an answer without an end is given up after a megabyte, and takes nothing of the server', async () => {
  let sent = 0;
  const { port } = await serve((_request, response) => {
    response.writeHead(207, { 'Content-Type': 'application/xml' });
    pour(response);
    response.once('close', () => (sent = response.socket?.bytesWritten ?? sent));
  });
  const before = process.memoryUsage.rss();
  const trials = new Trials(fileURLToPath(new URL('../../../dist/receiver-trial.js', import.meta.url)));
  const told = await trials.try(dav(port), 'geheim');
  expect(told).toMatchObject({ is: 'refused', says: expect.stringContaining('answers more than makes sense') as string });
  expect(process.memoryUsage.rss() - before).toBeLessThan(150e6);
  // What the system had taken on its way is all that was sent.
  expect(sent).toBeLessThan(40e6);
});

it('credentials go as UTF-8 (RFC 7617), and never to another origin', async () => {
  const told: string[] = [];
  const other = await serve((request, response) => {
    told.push(`other ${request.headers.authorization ?? ''}`);
    response.writeHead(200).end();
  });
  const { port } = await serve((request, response) => {
    told.push(String(request.headers.authorization));
    if (request.url?.startsWith('/dav')) response.writeHead(308, { Location: '/moved/' }).end();
    else response.writeHead(302, { Location: `http://127.0.0.1:${other.port}/dav/` }).end();
  });
  const answer = await tryReceiver(dav(port), 'Schlüssel€');
  expect(answer).toMatchObject({ is: 'refused', says: expect.stringContaining(`sends on to http://127.0.0.1:${other.port}`) as string });
  // Within the origin it was followed.
  const credentials = `Basic ${Buffer.from('Jörg:Schlüssel€', 'utf8').toString('base64')}`;
  expect(told).toEqual([credentials, credentials]);
});

it('a mail server or an SFTP host that talks without an end is given up', async () => {
  const socket = createSocketServer((line) => {
    line.on('error', () => {});
    const more = () => {
      while (!line.destroyed && line.write('220-and more and more and more\r\n'.repeat(500)));
    };
    line.on('drain', more);
    more();
  });
  await new Promise<void>((resolve) => socket.listen(0, '127.0.0.1', resolve));
  open.push(socket);
  const { port } = socket.address() as AddressInfo;
  const before = process.memoryUsage.rss();
  const smtp = Receiver.parse({ kind: 'smtp', title: 'Q', host: '127.0.0.1', port, security: 'none', from: 'Orla <o@quay.example>' });
  expect((await tryReceiver(smtp, '')).is).toBe('refused');
  const sftp = Receiver.parse({ kind: 'sftp', title: 'Q', host: '127.0.0.1', port, user: 'u' });
  expect((await tryReceiver(sftp, 'x')).is).toBe('refused');
  expect(process.memoryUsage.rss() - before).toBeLessThan(150e6);
});
