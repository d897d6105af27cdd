import { utf8Bytes } from '../name/file-safe';

/** What a part of a message takes beside its content: its boundary and header lines, with a name of 250 signs, encoded. */
const PART_BYTES = 1100;
/** What the header lines of a message take at most, beside its subject and its addresses. */
const HEAD_BYTES = 1500;

/** Bytes of a file as it is attached: Base64 in lines of 76 signs (RFC 2045, 6.8), and the header lines of its part. */
export function attachedBytes(bytes: number): number {
  const signs = Math.ceil(bytes / 3) * 4;
  return signs + 2 * Math.ceil(signs / 76) + PART_BYTES;
}

/** Bytes of a message without its attachments: its text may be encoded with three signs for each byte (RFC 2045, 6.7). */
export const frameBytes = (subject: string, text: string, to: readonly string[]): number =>
  HEAD_BYTES + 4 * utf8Bytes(subject) + 4 * utf8Bytes(text) + to.reduce((sum, address) => sum + address.length + 4, 0);

/**
 * Splits files over messages, in their order, so that none is heavier than its receiver takes.
 * @param frame bytes of a message without attachments, see {@link frameBytes}
 * @param mostBytes of a whole message as it is sent
 * @returns messages, and files that fit into none
 */
export function splitForMail<F extends { bytes: number }>(
  files: readonly F[],
  frame: number,
  mostBytes: number,
): { messages: F[][]; tooHeavy: F[] } {
  const messages: F[][] = [];
  const tooHeavy: F[] = [];
  let room = 0;
  for (const file of files) {
    const bytes = attachedBytes(file.bytes);
    if (frame + bytes > mostBytes) {
      tooHeavy.push(file);
      continue;
    }
    if (bytes > room) {
      messages.push([]);
      room = mostBytes - frame;
    }
    messages.at(-1)!.push(file);
    room -= bytes;
  }
  return { messages, tooHeavy };
}

/** What can be filled in where a mail says so, in square brackets. */
export const MAIL_WORDS = {
  set: 'Name of the set',
  files: 'Files of the delivery',
  weight: 'Their weight',
  part: 'Number of the message',
  parts: 'Number of messages',
  studio: 'Creator, as in Studio',
} as const;
export type MailWord = keyof typeof MAIL_WORDS;

/** A text with what it says in brackets filled in; what is no word of ours stays. */
export const fillIn = (template: string, values: Readonly<Record<MailWord, string>>): string =>
  template.replace(/\[([a-z]+)\]/g, (whole, word: string) => (Object.hasOwn(MAIL_WORDS, word) ? values[word as MailWord] : whole));

/** A subject and a text to begin with. */
export const MAIL_START = {
  subject: '[set], [part] of [parts]',
  text: 'Hello,\n\nhere are [files] files of “[set]”, [weight] together. This is message [part] of [parts].\n\nKind regards\n[studio]\n',
} as const;
