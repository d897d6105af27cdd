import { createHash } from 'node:crypto';
import { createWriteStream } from 'node:fs';
import { rename, rm, stat } from 'node:fs/promises';
import { pipeline } from 'node:stream/promises';
import { counted, FILE_TYPES, type MailMessage, mailboxParts, ProblemError, Receiver, typeOfName, weight } from '@rundle/core';
import type { OpenFile } from '@rundle/place';
import { type DeliveryFileRow, mailParts, messageFile, secretOf } from '@rundle/store';
import { createTransport } from 'nodemailer';
import type { Address, Options } from 'nodemailer/lib/mailer';
import { type Letter, openMailServer } from '@rundle/transport';
import type { Job } from '../job';
import { openSource } from '../source';
import { withRetry } from './with-retry';

type MailWay = Extract<Job['wish']['way'], { kind: 'mail' }>;

/** The server that sends it. */
interface Post {
  from: string;
  /** The heaviest message that it says to take, bytes. */
  mostBytes: number;
  send: (letter: Letter) => Promise<void>;
}

/** A message that is to go. */
interface Draft {
  number: number;
  of: number;
  subject: string;
  text: string;
  rows: DeliveryFileRow[];
}

/**
 * Mails files in as many messages as their weight asks for. A message that has been taken is not sent again; whether one was, whose line broke
 * before its end was told, no protocol says: its Message-ID is the same each time, by which receivers know it again, and another one for others.
 */
export async function sendMail(job: Job, rows: readonly DeliveryFileRow[]): Promise<void> {
  const { way } = job.wish;
  if (way.kind !== 'mail') return;
  const post = way.receiverId === null ? null : await postOf(job, way.receiverId);
  for (const draft of await draftsOf(job, way, rows, post?.mostBytes ?? Infinity)) {
    job.goOn();
    await sendOne(job, way, draft, post);
  }
}

/** Splits what is still to go, and writes down into how many messages; those that were taken before an interruption stay as they are. */
async function draftsOf(job: Job, way: MailWay, rows: readonly DeliveryFileRow[], mostBytes: number): Promise<Draft[]> {
  const { database } = job.context;
  const set = await job.inDatabase(() => database.sets.findByPk(job.row.setId));
  if (!set) return [];
  if (mostBytes < way.mostBytes) await job.say(`The server takes messages up to ${weight(mostBytes)}: they are split for that.`);
  const taken = job.row.messages.filter(({ sent }) => sent);
  const last = Math.max(0, ...taken.map(({ number }) => number));
  const files = rows.map(({ path, bytes }) => ({ path, bytes: Number(bytes) }));
  const { messages, tooHeavy } = await job.inDatabase(() => mailParts(database, set, job.wish, files, last, mostBytes));
  for (const row of rows.filter(({ path }) => tooHeavy.includes(path)))
    await job.settle(row, 'failed', {
      code: 'mail-too-heavy',
      file: row.path,
      message: `${row.path} alone is heavier than a message may be. Send a smaller version, or raise the limit.`,
    });
  const own = new Map(rows.map((row) => [row.path, row]));
  const drafts = messages.map(({ subject, text, paths }, at) => ({
    number: last + at + 1,
    of: last + messages.length,
    subject,
    text,
    rows: paths.map((path) => own.get(path)!),
  }));
  const listed = drafts.map(({ number, subject, rows: { length } }) => ({ number, subject, files: length, bytes: 0, sent: false }));
  await job.change({ messages: [...taken, ...listed] });
  return drafts;
}

async function sendOne(job: Job, way: MailWay, draft: Draft, post: Post | null): Promise<void> {
  const { number, of } = draft;
  const attached = await openAll(job, draft.rows);
  try {
    if (attached.length === 0) return await noteMessage(job, [], { number, files: 0, bytes: 0, sent: false });
    const path = messageFile(await job.folder(), number);
    const bytes = await compose(await messageOf(job, way, draft, attached, post), path);
    const most = Math.min(way.mostBytes, post?.mostBytes ?? Infinity);
    if (bytes > most)
      throw new ProblemError({
        code: 'internal',
        message: `Message ${number} came out heavier than was reckoned. Lower the limit, then deliver again.`,
      });
    const to = way.to.map((one) => mailboxParts(one).address);
    if (post)
      await withRetry(
        job,
        () => post.send({ from: mailboxParts(post.from).address, to, path, bytes }),
        () => 0,
      );
    const rows = attached.map(({ row }) => row);
    await noteMessage(job, rows, { number, files: rows.length, bytes, sent: true });
    if (post) await rm(path, { force: true }); // a mail program has to find the others
    await job.say(`Message ${number} of ${of} ${post ? 'was taken' : 'is written'}: ${counted(rows.length, 'file')}, ${weight(bytes)}.`);
  } finally {
    for (const { file } of attached) await file.close();
  }
}

interface Attached {
  row: DeliveryFileRow;
  file: OpenFile;
}

/** Those files that are still what they were; the others are told. */
async function openAll(job: Job, rows: readonly DeliveryFileRow[]): Promise<Attached[]> {
  const attached: Attached[] = [];
  for (const row of rows)
    try {
      attached.push({ row, file: await openSource(job, row) });
    } catch (error) {
      if (!(error instanceof ProblemError)) throw error;
      await job.settle(row, 'failed', error.problem);
    }
  return attached;
}

/** What became of a message, with its files: all of it is written down, or nothing. */
function noteMessage(job: Job, rows: readonly DeliveryFileRow[], now: Omit<MailMessage, 'subject'>): Promise<void> {
  // A new list: Sequelize does not see what is altered in the one that it holds.
  const messages = job.row.messages.map((one) => (one.number === now.number ? { ...one, ...now } : one));
  return job.settleAll(rows, { messages });
}

async function messageOf(job: Job, way: MailWay, draft: Draft, attached: readonly Attached[], post: Post | null): Promise<Options> {
  const { number, subject, text } = draft;
  const attachments = attached.map(async ({ row, file }) => ({
    filename: row.path.split('/').at(-1)!,
    path: await file.path(),
    contentType: mediaTypeOf(row.path),
  }));
  const content = JSON.stringify([number, subject, text, way.to, attached.map(({ row }) => [row.path, row.sha256])]);
  const mark = createHash('sha256').update(content).digest('hex').slice(0, 24);
  return {
    ...(post ? { from: addressOf(post.from) } : { headers: { 'X-Unsent': '1' } }),
    to: way.to.map(addressOf),
    subject,
    text,
    messageId: `<${job.row.id}.${mark}@rundle>`,
    attachments: await Promise.all(attachments),
  };
}

const addressOf = (mailbox: string): string | Address => {
  const { name, address } = mailboxParts(mailbox);
  return name ? { name, address } : address;
};

async function postOf(job: Job, receiverId: string): Promise<Post> {
  const { database, secrets } = job.context;
  const found = await job.inDatabase(() => database.receivers.findOne({ where: { id: receiverId, deletedAt: null } }));
  const receiver = found && Receiver.parse(found.body);
  if (!found || receiver?.kind !== 'smtp')
    throw new ProblemError({ code: 'receiver-gone', message: 'The mail server has been deleted. Deliver again by another.' });
  const secret = await secretOf(found, secrets);
  // A line for each message: one that has been idle for long may be gone.
  const withServer = async <T>(act: (server: Awaited<ReturnType<typeof openMailServer>>) => Promise<T>): Promise<T> => {
    const server = await openMailServer(receiver, secret);
    return act(server).finally(() => server.close());
  };
  let mostBytes = Infinity;
  const ask = () => withServer((server) => Promise.resolve(void (mostBytes = server.mostBytes ?? Infinity)));
  await withRetry(job, ask, () => 0);
  return { from: receiver.from, mostBytes, send: (letter) => withServer((server) => server.send(letter)) };
}

/** Writes a message as it is sent (RFC 5322), from its files piece by piece. @returns its bytes */
async function compose(message: Options, to: string): Promise<number> {
  const composer = createTransport({ streamTransport: true, newline: 'windows', buffer: false });
  const { message: stream } = await composer.sendMail(message);
  const aside = `${to}.part`;
  await pipeline(stream, createWriteStream(aside));
  await rename(aside, to);
  return (await stat(to)).size;
}

function mediaTypeOf(path: string): string {
  const type = typeOfName(path);
  return type ? FILE_TYPES[type].mediaType : path.endsWith('.json') ? 'application/json' : 'application/octet-stream';
}
