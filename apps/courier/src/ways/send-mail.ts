import { createWriteStream } from 'node:fs';
import { rename, rm, stat } from 'node:fs/promises';
import { pipeline } from 'node:stream/promises';
import { FILE_TYPES, type MailMessage, ProblemError, Receiver } from '@rundle/core';
import { type DeliveryFileRow, mailParts, messageFile, secretOf, typeOf } from '@rundle/store';
import { createTransport } from 'nodemailer';
import type { Options } from 'nodemailer/lib/mailer';
import { openMailServer } from '@rundle/transport';
import type { Job } from '../job';
import { patiently } from './patient';

/**
 * Mails files in as many messages as their weight asks for. A message that has been taken is not sent again; whether one was, whose line broke
 * before its end was told, no protocol says: its Message-ID is the same each time, by which receivers know it again.
 */
export async function sendMail(job: Job, rows: readonly DeliveryFileRow[], pathOf: (row: DeliveryFileRow) => string): Promise<void> {
  const { way } = job.wish;
  if (way.kind !== 'mail') return;
  const { database, secrets } = job.context;
  const set = await job.inDatabase(() => database.sets.findByPk(job.row.setId));
  if (!set) return;
  // Those of an earlier try stay where they were: all files that go out are split anew, in the same way.
  const all = await job.files({ state: ['waiting', 'sent'] });
  const { messages, tooHeavy } = await job.inDatabase(() =>
    mailParts(
      database,
      set,
      job.wish,
      all.map(({ path, bytes }) => ({ path, bytes: Number(bytes) })),
    ),
  );
  for (const row of rows.filter(({ path }) => tooHeavy.includes(path)))
    await job.settle(row, 'failed', {
      code: 'mail-too-heavy',
      file: row.path,
      message: `${row.path} alone is heavier than a message may be. Send a smaller version, or raise the limit.`,
    });
  const own = new Map(all.map((row) => [row.path, row]));
  const list: MailMessage[] = messages.map(({ subject, paths }, at) => ({
    number: at + 1,
    subject,
    files: paths.length,
    bytes: job.row.messages[at]?.bytes ?? 0,
    sent: paths.every((path) => own.get(path)!.state === 'sent'),
  }));
  await job.change({ messages: list });
  const server = way.receiverId === null ? null : await mailServerOf(job, way.receiverId);
  const folder = await job.folder();
  for (const [at, { subject, text, paths }] of messages.entries()) {
    if (list[at]!.sent) continue;
    const files = paths.map((path) => own.get(path)!);
    const message: Options = {
      from: server?.from ?? '',
      to: [...way.to],
      subject,
      text,
      messageId: `<${job.row.id}.${at + 1}@rundle>`,
      attachments: files.map((row) => ({ filename: row.path.split('/').at(-1)!, path: pathOf(row), contentType: mediaTypeOf(row.path) })),
    };
    const path = messageFile(folder, at + 1);
    const bytes = await compose(server ? message : { ...message, from: undefined, headers: { 'X-Unsent': '1' } }, path);
    if (bytes > way.mostBytes)
      throw new ProblemError({
        code: 'internal',
        message: `Message ${at + 1} came out heavier than was reckoned. Lower the limit, then deliver again.`,
      });
    if (server)
      await patiently(
        job,
        () => server.send({ envelope: { from: server.from, to: [...way.to] }, raw: { path } }),
        () => 0,
      );
    for (const row of files) await job.settle(row, 'sent');
    if (server) await rm(path, { force: true }); // a mail program has to find the others
    list[at] = { ...list[at]!, bytes, sent: true };
    await job.change({ messages: [...list] });
    await job.say(`Message ${at + 1} of ${messages.length} ${server ? 'was taken' : 'is written'}: ${paths.length} files, ${bytes} bytes.`);
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
  const type = typeOf(path);
  return type ? FILE_TYPES[type].mediaType : path.endsWith('.json') ? 'application/json' : 'application/octet-stream';
}
