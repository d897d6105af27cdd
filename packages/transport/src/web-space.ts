import type { Receiver } from '@rundle/core';
import { openSftp } from './sftp';
import { openWebDav } from './webdav';

/** A web space that is open: where files are put so that the web shows them. Paths have `/` between levels, from the folder of the receiver. */
export interface WebSpace {
  /**
   * Puts a file in its place: it is written under another name and moved there when it is whole, so that nobody ever sees half of it.
   * @param from path of the file on this machine
   * @param mark of its content: what was begun under it goes on where it can
   * @throws ProblemError, or an error of the connection
   */
  put(from: string, to: string, bytes: number, mark: string): Promise<void>;
  /** Whether a file of so many bytes stands there. */
  holds(path: string, bytes: number): Promise<boolean>;
  /** Removes a file; none is no error. */
  remove(path: string): Promise<void>;
  close(): Promise<void>;
}

/** How a file is called while it is not whole yet. */
export const asideName = (path: string, mark: string): string => {
  const [, folder = '', name = ''] = /^(.*\/)?([^/]*)$/.exec(path) ?? [];
  return `${folder}.${mark.slice(0, 16)}-${name.slice(-60)}.part`;
};

/** The folders above a path, the outermost first. */
export const foldersAbove = (path: string): string[] => {
  const levels = path.split('/').filter(Boolean).slice(0, -1);
  return levels.map((_, at) => levels.slice(0, at + 1).join('/'));
};

/** @throws ProblemError, NotTrusted, or an error of the connection */
export function openWebSpace(receiver: Exclude<Receiver, { kind: 'smtp' }>, secret: string): Promise<WebSpace> {
  return receiver.kind === 'webdav' ? openWebDav(receiver, secret) : openSftp(receiver, secret);
}
