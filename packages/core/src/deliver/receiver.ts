import * as z from 'zod';
import { line, text, whole } from '../preset/fields';
import { FolderPath } from '../name/folder';

const Title = line(120, 1).meta({ title: 'Name of the receiver' });
const User = line(200).default('').meta({ title: 'User' });

/** An address of the web, without a trailing slash. */
const webAddress = (error: string) =>
  z
    .string({ error })
    .max(1000, { error })
    .regex(/^https?:\/\/[^\s/?#]+[^\s?#]*$/i, { error });

const HostName = z
  .string()
  .min(1)
  .max(253)
  .regex(/^[A-Za-z0-9.:_-]+$/, { error: 'a name such as files.example or an address such as 192.0.2.7' });

/** An e-mail address as it is written in practice (HTML, "valid e-mail address"). */
export const MailAddress = z
  .string()
  .max(254)
  .regex(
    /^[A-Za-z0-9.!#$%&'*+/=?^_`{|}~-]+@[A-Za-z0-9](?:[A-Za-z0-9-]{0,61}[A-Za-z0-9])?(?:\.[A-Za-z0-9](?:[A-Za-z0-9-]{0,61}[A-Za-z0-9])?)*$/,
    {
      error: 'an e-mail address such as desk@harbour.example',
    },
  );

/** Somebody who gets mail, with or without a name: "Desk <desk@harbour.example>" (RFC 5322, 3.4, in its plain forms). */
export const Mailbox = z
  .string()
  .max(400)
  .refine((text) => !/[\r\n]/.test(text) && MailAddress.safeParse(mailboxParts(text).address).success, {
    error: 'an e-mail address such as desk@harbour.example, or with a name: Desk <desk@harbour.example>',
  });

/** Name, which may be empty, and address of a mailbox. */
export function mailboxParts(text: string): { name: string; address: string } {
  const [, name, address] = /^\s*(?:"([^"]*)"|[^<>"]*?)\s*<\s*([^<>\s]*)\s*>\s*$/.exec(text) ?? [];
  if (address === undefined) return { name: '', address: text.trim() };
  return { name: (name ?? text.slice(0, text.indexOf('<'))).trim(), address };
}

/** Mailboxes as they are typed, between commas, semicolons or line ends; plain addresses also between spaces. */
export const typedMailboxes = (text: string): string[] =>
  (text.match(/(?:"[^"]*"|[^",;\n<>])*(?:<[^<>\n]*>)?/g) ?? []).flatMap((one) =>
    /[<"]/.test(one) ? [one.trim()] : one.split(/\s+/).filter(Boolean),
  );

/** Whose certificate or key is trusted though nobody vouches for it: as `SHA256:` and Base64, as OpenSSH prints it. */
const Fingerprint = z
  .string()
  .regex(/^SHA256:[A-Za-z0-9+/=]{40,48}$/)
  .nullable()
  .default(null);

/** What the web shows of a web space, so that what was delivered can be opened there. */
const shownAt = webAddress('where the web shows it, such as https://harbour.example/pictures, or nothing')
  .or(z.literal(''))
  .default('')
  .meta({ title: 'Where the web shows it' });

/** Somebody who is sent pictures, and how they are reached. A password or key is kept beside it, and never told again. */
export const Receiver = z
  .discriminatedUnion('kind', [
    z
      .strictObject({
        kind: z.literal('webdav'),
        title: Title,
        address: webAddress('an address such as https://files.example/site').meta({ title: 'Address' }),
        user: User,
        trusted: Fingerprint,
        shownAt,
      })
      .meta({ description: 'A web space by WebDAV (RFC 4918)' }),
    z
      .strictObject({
        kind: z.literal('sftp'),
        title: Title,
        host: HostName.meta({ title: 'Host' }),
        port: whole(1, 65_535).default(22).meta({ title: 'Port' }),
        user: line(200, 1).meta({ title: 'User' }),
        folder: line(1000).default('').meta({ title: 'Folder on the host', description: 'Empty: where the user comes to' }),
        trusted: Fingerprint,
        shownAt,
      })
      .meta({ description: 'A web space by SFTP' }),
    z
      .strictObject({
        kind: z.literal('smtp'),
        title: Title,
        host: HostName.meta({ title: 'Host' }),
        port: whole(1, 65_535).default(587).meta({ title: 'Port' }),
        security: z
          .enum(['tls', 'starttls', 'none'])
          .default('starttls')
          .meta({ title: 'Security', description: 'Encrypted from the first byte; encrypted before anything is said; not at all' }),
        user: User,
        from: Mailbox.meta({ title: 'Sent from' }),
        trusted: Fingerprint,
      })
      .meta({ description: 'A mail server (RFC 5321)' }),
  ])
  .meta({ id: 'Receiver' });
export type Receiver = z.infer<typeof Receiver>;
export type ReceiverKind = Receiver['kind'];

/** Password, or private key of SFTP. Absent: the one that is kept stays. */
export const Secret = text(20_000).optional().meta({ title: 'Password or private key' });

/** Those of earlier releases may have one in their address, which then stands on screens and in logs. */
const WITHOUT_PASSWORD = {
  path: ['receiver', 'address'],
  error: 'an address without user and password: they have fields of their own',
};
const hasNoPassword = ({ receiver }: { receiver: Receiver }): boolean =>
  receiver.kind !== 'webdav' || !/^https?:\/\/[^/]*@/i.test(receiver.address);

export const NewReceiver = z
  .strictObject({ receiver: Receiver, secret: Secret })
  .refine(hasNoPassword, WITHOUT_PASSWORD)
  .meta({ id: 'NewReceiver' });
export type NewReceiver = z.infer<typeof NewReceiver>;

export const StoredReceiver = z
  .object({
    id: z.uuid(),
    receiver: Receiver,
    hasSecret: z.boolean(),
    isStandIn: z.boolean().meta({ description: 'A made-up one that ships with Rundle' }),
  })
  .meta({ id: 'StoredReceiver' });
export type StoredReceiver = z.infer<typeof StoredReceiver>;

/** What a try has shown: nothing is left behind by it. */
export const ReceiverTest = z
  .discriminatedUnion('is', [
    z.object({ is: z.literal('fine'), says: z.string() }),
    z.object({ is: z.literal('refused'), says: z.string() }),
    z.object({
      is: z.literal('unknown'),
      says: z.string(),
      fingerprint: z.string().meta({ description: 'Of the key or certificate that nobody vouches for' }),
    }),
  ])
  .meta({ id: 'ReceiverTest' });
export type ReceiverTest = z.infer<typeof ReceiverTest>;

/** A receiver to be tried, and where its kept secret lies if none is given. */
export const ReceiverTestWish = z
  .strictObject({ receiver: Receiver, secret: Secret, receiverId: z.uuid().optional() })
  .refine(hasNoPassword, WITHOUT_PASSWORD)
  .meta({ id: 'ReceiverTestWish' });

/** The made-up receivers that ship with Rundle. */
export const STAND_INS = ['webdav', 'sftp', 'smtp'] as const satisfies readonly ReceiverKind[];
export const StandInsView = z
  .object({
    why: z.string().nullable().meta({ description: 'Why there are none just now' }),
    site: z.string().nullable().meta({ description: 'Where the made-up web space is seen' }),
    mailBox: z.string().nullable().meta({ description: 'Where its mail is read' }),
  })
  .meta({ id: 'StandInsView' });
export type StandInsView = z.infer<typeof StandInsView>;

/**
 * Whether two receivers are the same user at the same place: only then is what is secret of one used for the other. Else whoever changes an
 * address would have it sent there.
 */
export function isSameAccount(one: Receiver, other: Receiver): boolean {
  const account = (receiver: Receiver): unknown[] => {
    const { kind, user } = receiver;
    return receiver.kind === 'webdav'
      ? [kind, user, new URL(receiver.address).origin]
      : [kind, user, receiver.host, receiver.port, receiver.kind === 'smtp' ? receiver.security : ''];
  };
  return JSON.stringify(account(one)) === JSON.stringify(account(other));
}

/** A receiver in a few words, by which it is told from others: "Quay Web (sftp://quay.example:22)". */
export function receiverInWords(receiver: Receiver): string {
  switch (receiver.kind) {
    case 'webdav':
      return `${receiver.title} (${receiver.address})`;
    case 'sftp':
      return `${receiver.title} (sftp://${receiver.host}:${receiver.port}${receiver.folder ? `/${receiver.folder.replace(/^\/+/, '')}` : ''})`;
    case 'smtp':
      return `${receiver.title} (${receiver.host}:${receiver.port})`;
  }
}

/** Where the web shows a folder of a web space; null: that is not known. */
export function shownAddress(receiver: Receiver, folder: string): string | null {
  if (receiver.kind === 'smtp' || receiver.shownAt === '') return null;
  const path = FolderPath.parse(folder).split('/').filter(Boolean).map(encodeURIComponent).join('/');
  return `${receiver.shownAt.replace(/\/+$/, '')}/${path ? `${path}/` : ''}`;
}
