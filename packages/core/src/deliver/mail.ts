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
  HEAD_BYTES + 4 * utf8Bytes(subject) + 4 * utf8Bytes(text) + to.reduce((sum, mailbox) => sum + 4 * utf8Bytes(mailbox) + 4, 0);

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
  files: 'Files of the message',
  weight: 'Their weight',
  part: 'Number of the message',
  parts: 'Number of messages',
  studio: 'Creator, as in Studio',
} as const;
export type MailWord = keyof typeof MAIL_WORDS;

/** What the words stand for; null: there is nothing to say, and what speaks of it is left out. */
export type MailValues = Readonly<Record<MailWord, string | null>>;

const WORD = /\[([a-z]+)\]/g;

/**
 * A text with what it says in brackets filled in; what is no word of ours stays. Of what there is nothing to say about, the phrase is left out: up
 * to the nearest comma, colon, dash, bracket or end of a sentence. Where that is all that a line says, its paragraph goes: a signature without a name.
 */
export function fillIn(template: string, values: MailValues): string {
  const isMissing = (text: string): boolean =>
    [...text.matchAll(WORD)].some(([, word]) => Object.hasOwn(MAIL_WORDS, word!) && values[word as MailWord] === null);
  const isSaid = (paragraph: string): boolean => !paragraph.split('\n').some((line) => isMissing(line) && /^\[[a-z]+\]$/.test(line.trim()));
  const kept = template
    .split(/(\n{2,})/)
    .filter(isSaid)
    .join('')
    .replace(/\n{3,}/g, '\n\n');
  const said = kept
    .split('\n')
    .map((line) => (isMissing(line) ? withoutPhrases(line, isMissing) : line))
    .join('\n');
  return said.replace(WORD, (whole, word: string) => (Object.hasOwn(MAIL_WORDS, word) ? (values[word as MailWord] ?? '') : whole));
}

/** A phrase, with what parts it from the one before it, and the end of a sentence where it has one. */
const PHRASES = /\s*\([^()]*\)|(?:\s*[,;:–—]|\s+-(?=\s))?[^,;:.!?–—()]+?(?=\s*[,;:.!?–—(]|\s+-\s|$)|[.!?]+|./g;

function withoutPhrases(line: string, isMissing: (text: string) => boolean): string {
  let rest = '';
  let wholeSentence = true;
  for (const phrase of line.match(PHRASES) ?? [])
    if (/^[.!?]+$/.test(phrase)) {
      if (!wholeSentence || !/[.!?]$|^$/.test(rest.trimEnd())) rest += phrase;
      wholeSentence = true;
    } else if (!isMissing(phrase)) {
      rest += phrase;
      wholeSentence = false;
    }
  return rest.replace(/^[\s,;:–—-]+/, '').trimEnd();
}

/** A subject and a text to begin with. */
export const MAIL_START = {
  subject: '[set], [part] of [parts]',
  text: 'Hello,\n\nhere are pictures of “[set]”, [files] in this message, [weight] together. It is message [part] of [parts].\n\nKind regards\n[studio]\n',
} as const;
