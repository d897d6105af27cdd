import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { Receiver, type ReceiverKind, type StandInsView } from '@rundle/core';
import type { Config } from '@rundle/store';
import * as z from 'zod';

/** What the stand-ins tell of themselves when they have started. */
const Addresses = z.object({
  site: z.url(),
  webdav: z.url(),
  sftp: z.object({ port: z.int(), fingerprint: z.string() }),
  mailBox: z.url(),
  smtp: z.object({ port: z.int() }),
  user: z.string(),
  password: z.string(),
});
type Addresses = z.infer<typeof Addresses>;

/** How long the stand-in may take to answer, ms. */
const PATIENCE = 3000;

const OFF = 'The made-up receivers are off (RUNDLE_STAND_INS=off). Start Rundle without that to try deliveries with them.';
const SILENT =
  'The made-up receivers do not answer just now. They are started again by themselves when they have ended; try again in a moment.';

/** Where the stand-ins are; a sentence: why they cannot be reached. */
async function addressesOf({ standIns, data }: Config): Promise<Addresses | string> {
  if (!standIns) return OFF;
  try {
    const told = Addresses.parse(JSON.parse(await readFile(join(data, 'stand-ins/addresses.json'), 'utf8')));
    await fetch(told.site, { signal: AbortSignal.timeout(PATIENCE) });
    return told;
  } catch {
    return SILENT;
  }
}

export async function standInsView(config: Config): Promise<StandInsView> {
  const told = await addressesOf(config);
  return typeof told === 'string' ? { why: told, site: null, mailBox: null } : { why: null, site: told.site, mailBox: told.mailBox };
}

/** A made-up receiver as it is reached now; a sentence: why it cannot be. */
export async function standIn(config: Config, kind: ReceiverKind): Promise<{ receiver: Receiver; secret: string } | string> {
  const told = await addressesOf(config);
  if (typeof told === 'string') return told;
  const { user, password: secret, site } = told;
  switch (kind) {
    case 'webdav':
      return {
        secret,
        receiver: Receiver.parse({ kind, title: 'Quay Pages', address: told.webdav, user, shownAt: site.replace(/\/$/, '') }),
      };
    case 'sftp': {
      const { port, fingerprint: trusted } = told.sftp;
      const receiver = Receiver.parse({
        kind,
        title: 'Quay Pages by SFTP',
        host: '127.0.0.1',
        port,
        user,
        trusted,
        shownAt: site.replace(/\/$/, ''),
      });
      return { secret, receiver };
    }
    case 'smtp': {
      const receiver = Receiver.parse({
        kind,
        title: 'Emberquay Post',
        host: '127.0.0.1',
        port: told.smtp.port,
        security: 'none',
        user,
        from: 'studio@emberquay.example',
      });
      return { secret, receiver };
    }
  }
}
