import { createWriteStream } from 'node:fs';
import { rename, rm, stat } from 'node:fs/promises';
import { pipeline } from 'node:stream/promises';
import { counted, FILE_TYPES, type MailMessage, ProblemError, Receiver, typeOfName, weight } from '@rundle/core';
import { type DeliveryFileRow, mailParts, messageFile, secretOf } from '@rundle/store';
import { createTransport } from 'nodemailer';
import type { Options } from 'nodemailer/lib/mailer';
import { openMailServer } from '@rundle/transport';
import type { Job } from '../job';
import { sourceOf } from '../source';
import { patiently } from './patient';

/**
 * Mails files in as many messages as their weight asks for. A message that has been taken is not sent again; whether one was, whose line broke
 * before its end was told, no protocol says: its Message-ID is the same each time, by which receivers know it again.
 */
export async function sendMail(job: Job, rows: readonly DeliveryFileRow[]): Promise<void> {
  const { way } = job.wish;
  if (way.kind !== 'mail') return;
  const { database, secrets } = job.context;
  const set = await job.inDatabase(() => database.sets.findByPk(job.row.setId));
  if (!set) return;
  const all = await job.files({ state: ['waiting', 'sent'] });
  // Messages that were taken before an interruption stay as they are; the rest is split anew.
  const taken = job.row.messages.filter(({ sent }) => sent);
  const files = all.map(({ path, bytes, state }) => ({ path, bytes: Number(bytes), isGone: state === 'sent' }));
  const { messages, tooHeavy } = await job.inDatabase(() => mailParts(database, set, job.wish, files, taken.length));
  for (const row of rows.filter(({ path }) => tooHeavy.includes(path)))
    await job.settle(row, 'failed', {
      code: 'mail-too-heavy',
      file: row.path,
      message: `${row.path} alone is heavier than a message may be. Send a smaller version, or raise the limit.`,
    });
  const own = new Map(all.map((row) => [row.path, row]));
  const list: MailMessage[] = [
    ...taken,
    ...messages.map(({ subject, paths }, at) => ({
      number: taken.length + at + 1,
      subject,
      files: paths.length,
      bytes: 0,
      sent: false,
    })),
  ];
  await job.change({ messages: list });
  const server = way.receiverId === null ? null : await mailServerOf(job, way.receiverId);
  const folder = await job.folder();
  for (const [at, { subject, text, paths }] of messages.entries()) {
    job.goOn();
    const number = taken.length + at + 1;
    const attached: DeliveryFileRow[] = [];
    const sources: string[] = [];
    for (const row of paths.map((path) => own.get(path)!))
      try {
        sources.push(await sourceOf(job, row));
        attached.push(row);
      } catch (error) {
        if (!(error instanceof ProblemError)) throw error;
        await job.settle(row, 'failed', error.problem);
      }
    if (attached.length === 0) continue;
    const message: Options = {
      from: server?.from ?? '',
      to: [...way.to],
      subject,
      text,
      messageId: `<${job.row.id}.${number}@rundle>`,
      attachments: attached.map((row, index) => ({
        filename: row.path.split('/').at(-1)!,
        path: sources[index]!,
        contentType: mediaTypeOf(row.path),
      })),
    };
    const path = messageFile(folder, number);
    const bytes = await compose(server ? message : { ...message, from: undefined, headers: { 'X-Unsent': '1' } }, path);
    if (bytes > way.mostBytes)
      throw new ProblemError({
        code: 'internal',
        message: `Message ${number} came out heavier than was reckoned. Lower the limit, then deliver again.`,
      });
    if (server)
      await patiently(
        job,
        () => server.send({ envelope: { from: server.from, to: [...way.to] }, raw: { path } }),
        () => 0,
      );
    list[number - 1] = { ...list[number - 1]!, files: attached.length, bytes, sent: true };
    await job.settleAll(attached, { messages: [...list] });
    if (server) await rm(path, { force: true }); // a mail program has to find the others
    await job.say(
      `Message ${number} of ${list.length} ${server ? 'was taken' : 'is written'}: ${counted(attached.length, 'file')}, ${weight(bytes)}.`,
    );
  }

  async function mailServerOf(one: Job, receiverId: string) {
    const found = await one.inDatabase(() => database.receivers.findOne({ where: { id: receiverId, deletedAt: null } }));
    const receiver = found && Receiver.parse(found.body);
    if (!found || receiver?.kind !== 'smtp')
      throw new ProblemError({ code: 'receiver-gone', message: 'The mail server has been deleted. Deliver again by another.' });
    const secret = await secretOf(found, secrets);
    return {
      from: receiver.from,
      // A line for each message: one that has been idle for long may be gone.
      send: async (message: Options) => {
        const open = await openMailServer(receiver, secret);
        await open.send(message).finally(() => open.close());
      },
    };
  }
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
