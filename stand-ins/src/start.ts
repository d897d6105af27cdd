import { randomBytes } from 'node:crypto';
import { chmod, mkdir, readFile, rename, writeFile } from 'node:fs/promises';
import { createServer, type RequestListener } from 'node:http';
import type { AddressInfo, Server } from 'node:net';
import { join } from 'node:path';
import * as z from 'zod';
import { feedApp } from './feed/app';
import { Wall } from './feed/wall';
import { mailApp } from './mail/app';
import { Box } from './mail/box';
import { smtpServer } from './mail/smtp';
import { hostKey } from './web-space/keys';
import { DAV_PATH, type Login, siteApp } from './web-space/site';
import { sftpServer } from './web-space/sftp';

/** Where each is found, unless another program is there. */
export const PORTS = { feed: 4830, site: 4831, sftp: 4832, mailBox: 4833, smtp: 4834 } as const;

/** The made-up receivers that ship with Rundle, all on this machine only. */
export interface StandIns {
  /** Folder that the web space shows. */
  site: string;
  box: Box;
  close(): Promise<void>;
}

/**
 * Starts them; whoever sends something finds them by `addresses.json`, wherever they came to be.
 * @param data folder for all that they keep, @param pages folder in which their own pages lie
 * @param anyPort true: at free ports, for tests
 */
export async function startStandIns(data: string, pages: string, anyPort = false): Promise<StandIns> {
  const folders = { feed: join(data, 'feed'), site: join(data, 'site'), mail: join(data, 'mail') };
  for (const folder of [data, ...Object.values(folders)]) await mkdir(folder, { recursive: true, mode: 0o700 });
  const login = await loginOf(join(data, 'login.json'));
  const { privateKey, fingerprint } = await hostKey(data);
  const box = await Box.open(folders.mail);
  const smtp = smtpServer(box, login);
  smtp.on('error', () => {}); // it tells once more what `listen` hears of its port
  const own = {
    feed: httpServer(feedApp(await Wall.open(folders.feed), join(pages, 'feed-page'))),
    site: httpServer(siteApp(folders.site, login)),
    sftp: sftpServer(folders.site, login, privateKey) as unknown as Server,
    mailBox: httpServer(mailApp(box, join(pages, 'mail-page'))),
    smtp: smtp.server,
  };
  const ports = Object.fromEntries(
    await Promise.all(
      Object.entries(own).map(
        async ([name, server]) => [name, await listen(server, anyPort ? 0 : PORTS[name as keyof typeof PORTS])] as const,
      ),
    ),
  ) as Record<keyof typeof own, number>;
  const http = (port: number) => `http://127.0.0.1:${port}`;
  await writeFile(join(folders.feed, 'address'), http(ports.feed));
  const addresses = {
    site: `${http(ports.site)}/`,
    webdav: `${http(ports.site)}${DAV_PATH}`,
    sftp: { port: ports.sftp, fingerprint },
    mailBox: `${http(ports.mailBox)}/`,
    smtp: { port: ports.smtp },
    ...login,
  };
  await writeFile(join(data, 'addresses.new'), JSON.stringify(addresses), { mode: 0o600 });
  await rename(join(data, 'addresses.new'), join(data, 'addresses.json'));
  return {
    site: folders.site,
    box,
    close: async () => {
      for (const server of [own.feed, own.site, own.mailBox]) server.closeAllConnections();
      await Promise.all(Object.values(own).map((server) => new Promise((resolve) => server.close(resolve))));
    },
  };
}

const httpServer = (app: RequestListener) => createServer({ keepAliveTimeout: 65_000 }, app);

/** @returns the port that it has got */
function listen(server: Server, port: number): Promise<number> {
  return new Promise((resolve) => {
    server.once('error', () => server.listen(0, '127.0.0.1'));
    server.once('listening', () => {
      server.on('error', () => {}); // of single connections
      resolve((server.address() as AddressInfo).port);
    });
    server.listen(port, '127.0.0.1');
  });
}

const Login = z.object({ user: z.string(), password: z.string() });

/** Made once: what was added in Rundle stays right. */
async function loginOf(path: string): Promise<Login> {
  const kept = Login.safeParse(JSON.parse(await readFile(path, 'utf8').catch(() => 'null'))).data;
  if (kept) return kept;
  const login = { user: 'studio', password: randomBytes(18).toString('base64url') };
  await writeFile(path, JSON.stringify(login), { mode: 0o600 });
  await chmod(path, 0o600);
  return login;
}
