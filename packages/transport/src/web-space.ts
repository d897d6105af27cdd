import type { Receiver } from '@rundle/core';
import type { Destination } from './destination';
import { openSftp } from './sftp';
import { openWebDav } from './webdav';

/** Opens a web space: where files are put so that the web shows them. @throws ProblemError, NotTrusted, or an error of the connection */
export function openWebSpace(receiver: Exclude<Receiver, { kind: 'smtp' }>, secret: string): Promise<Destination> {
  return receiver.kind === 'webdav' ? openWebDav(receiver, secret) : openSftp(receiver, secret);
}
