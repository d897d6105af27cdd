import { randomUUID } from 'node:crypto';
import { mkdir, readdir, readFile, rename, rm, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { type Attachment, simpleParser } from 'mailparser';

/** A message that has come. */
export interface Letter {
  id: string;
  at: string;
  messageId: string;
  from: string;
  to: string[];
  subject: string;
  text: string;
  bytes: number;
  attachments: { name: string; type: string; bytes: number }[];
}

/** Messages that are kept. */
const MOST = 200;

/** The messages that have come, newest first; kept in a folder. */
export class Box {
  private taking: Promise<unknown> = Promise.resolve();

  private constructor(
    private readonly folder: string,
    readonly letters: Letter[],
  ) {}

  static async open(folder: string): Promise<Box> {
    await mkdir(folder, { recursive: true, mode: 0o700 });
    const names = (await readdir(folder)).filter((name) => name.endsWith('.json'));
    const letters = await Promise.all(names.map(async (name) => JSON.parse(await readFile(join(folder, name), 'utf8')) as Letter));
    return new Box(
      folder,
      letters.sort((a, b) => b.at.localeCompare(a.at)),
    );
  }

  /** Takes a message in. One that has come before, by its Message-ID, is the same message (RFC 5322, 3.6.4). */
  take(raw: Buffer, to: string[]): Promise<void> {
    const next = this.taking.then(
      () => this.takeOne(raw, to),
      () => this.takeOne(raw, to),
    );
    this.taking = next;
    return next;
  }

  private async takeOne(raw: Buffer, to: string[]): Promise<void> {
    const mail = await simpleParser(raw);
    const messageId = mail.messageId ?? randomUUID();
    if (this.letters.some((letter) => letter.messageId === messageId)) return;
    const letter: Letter = {
      id: randomUUID(),
      at: new Date().toISOString(),
      messageId,
      from: mail.from?.text ?? '',
      to,
      subject: mail.subject ?? '',
      text: mail.text ?? '',
      bytes: raw.length,
      attachments: mail.attachments.map((one) => ({ name: one.filename ?? 'attachment', type: one.contentType, bytes: one.size })),
    };
    await writeFile(this.pathOf(letter.id), raw);
    await writeFile(join(this.folder, `${letter.id}.new`), JSON.stringify(letter));
    await rename(join(this.folder, `${letter.id}.new`), join(this.folder, `${letter.id}.json`));
    this.letters.unshift(letter);
    for (const old of this.letters.splice(MOST))
      for (const path of [this.pathOf(old.id), join(this.folder, `${old.id}.json`)]) await rm(path, { force: true });
  }

  pathOf(id: string): string {
    return join(this.folder, `${id}.eml`);
  }

  /** @returns null when there is no such attachment */
  async attachment(id: string, number: number): Promise<Attachment | null> {
    if (!this.letters.some((letter) => letter.id === id)) return null;
    return (await simpleParser(await readFile(this.pathOf(id)))).attachments[number] ?? null;
  }
}
