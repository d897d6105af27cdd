import { createHash } from 'node:crypto';
import { createReadStream } from 'node:fs';
import { join } from 'node:path';
import { fileSafe } from '@rundle/core';

/** Where files lie below the data folder. Masters by content; outputs in a tree that people can open; caches may be deleted. */
export class Storage {
  constructor(private readonly data: string) {}

  /** Uploads on their way in. */
  get incoming(): string {
    return join(this.data, 'incoming');
  }

  /** A master, by the SHA-256 of its content. */
  master(sha256: string): string {
    return join(this.data, 'masters', sha256.slice(0, 2), sha256);
  }

  /** Where a master is read: in its place on the machine, or in the store. */
  placeOf({ sourcePath, sha256 }: { sourcePath: string | null; sha256: string | null }): string {
    return sourcePath ?? this.master(sha256 ?? '');
  }

  /** The small picture of a master for contact sheets; made again when it is missing. */
  proxy(sha256: string): string {
    return join(this.data, 'cache', 'proxies', sha256.slice(0, 2), `${sha256}.jpg`);
  }

  /** The folder in which a set's outputs stand, a folder per preset below it. */
  outputs({ id, title }: { id: string; title: string }): string {
    return join(this.data, 'outputs', `${fileSafe(title)} ${id.slice(0, 8)}`);
  }
}

/** SHA-256 of a file, in hexadecimal, read piece by piece. */
export async function sha256Of(path: string): Promise<string> {
  const hash = createHash('sha256');
  for await (const chunk of createReadStream(path)) hash.update(chunk as Buffer);
  return hash.digest('hex');
}
