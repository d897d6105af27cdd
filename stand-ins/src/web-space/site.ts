import { readdir } from 'node:fs/promises';
import { escapeHtml } from '@rundle/core';
import express, { type Express, type RequestHandler } from 'express';
import { v2 as webdav } from 'webdav-server';
import { ownMachineOnly } from '../own-machine';

/** Who may write to the web space. */
export interface Login {
  user: string;
  password: string;
}

/** Where WebDAV is on the site. */
export const DAV_PATH = '/dav';

/** A stand-in for the web space of a client: what is put into its folder by WebDAV or SFTP, the web shows. */
export function siteApp(folder: string, login: Login): Express {
  const app = express();
  app.disable('x-powered-by');
  app.use(ownMachineOnly('The stand-in web space'));
  app.use(DAV_PATH, refuseOdd);
  app.use(webdav.extensions.express(DAV_PATH, davServer(folder, login)));
  app.get('/', async (_request, response, next) => {
    const entries = await readdir(folder, { withFileTypes: true });
    if (entries.some(({ name }) => name === 'index.html')) return next();
    const shown = entries.filter(({ name }) => !name.startsWith('.')).sort((a, b) => a.name.localeCompare(b.name));
    response
      .type('html')
      .send(
        page(
          shown.length === 0
            ? '<p>Nothing has been published yet. Add this web space in Rundle, under Hand over, and send something to it.</p>'
            : `<ul>${shown.map((one) => `<li><a href="${encodeURIComponent(one.name)}${one.isDirectory() ? '/' : ''}">${escapeHtml(one.name)}</a></li>`).join('')}</ul>`,
        ),
      );
  });
  app.use(express.static(folder, { dotfiles: 'ignore' }));
  app.use((_request, response) => void response.status(404).type('html').send(page('<p>There is no such page here.</p>')));
  return app;
}

/** Calls that the package falls over instead of refusing them. */
const refuseOdd: RequestHandler = ({ method, path, headers, socket }, response, next) => {
  const inSpace = (address: string): boolean => {
    try {
      const { pathname } = new URL(address, `http://${headers.host ?? 'localhost'}`);
      return !decodeURIComponent(pathname).includes('\0') && (pathname === DAV_PATH || pathname.startsWith(`${DAV_PATH}/`));
    } catch {
      return false;
    }
  };
  const { destination } = headers;
  const moves = method === 'MOVE' || method === 'COPY';
  if (!inSpace(DAV_PATH + path)) response.status(400).end();
  else if (moves && (typeof destination !== 'string' || !inSpace(destination))) response.status(400).end();
  else if (method === 'DELETE' && /^\/*$/.test(path)) response.status(403).end();
  else if (socket.destroyed) return;
  else next();
};

function davServer(folder: string, { user, password }: Login): webdav.WebDAVServer {
  const users = new webdav.SimpleUserManager();
  const rights = new webdav.SimplePathPrivilegeManager();
  rights.setRights(users.addUser(user, password, false), '/', ['all']);
  const options = Object.assign(new webdav.WebDAVServerOptions(), {
    httpAuthentication: new webdav.HTTPBasicAuthentication(users, 'Quay Pages'),
    privilegeManager: rights,
    requireAuthentification: true,
    rootFileSystem: new webdav.PhysicalFileSystem(folder),
  });
  return new webdav.WebDAVServer(options);
}

const page = (content: string): string => `<!doctype html>
<html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width"><title>Quay Pages</title>
<link rel="icon" href="data:,"><style>body{max-width:42em;margin:48px auto;padding:0 20px;font:16px/1.5 system-ui,sans-serif;color:#22262a;background:#fbfaf7}a{color:#0f5f66}</style></head>
<body><main><h1>Quay Pages</h1><p>A made-up web space on this machine. What is sent to it stands here.</p>${content}</main></body></html>`;
