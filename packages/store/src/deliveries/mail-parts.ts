import { fillIn, frameBytes, type MailWord, type NewDelivery, splitForMail, StudioDetails, weight, withOwn } from '@rundle/core';
import type { Database } from '../database/connection';
import type { SetRow } from '../database/rows';

/**
 * The messages of a mail, split under their limit, with what is written in them.
 * @param files all of the delivery; of those that are gone messages have been taken already
 * @param before how many such messages
 */
export async function mailParts(
  { studio }: Database,
  set: SetRow,
  { way }: NewDelivery,
  files: readonly { path: string; bytes: number; isGone?: boolean }[],
  before = 0,
): Promise<{ messages: { subject: string; text: string; paths: string[] }[]; tooHeavy: string[] }> {
  if (way.kind !== 'mail') return { messages: [], tooHeavy: [] };
  const details = withOwn(StudioDetails.parse((await studio.findByPk(1))?.details ?? {}), StudioDetails.parse(set.rights));
  const values = (part: number, parts: number): Record<MailWord, string> => ({
    set: set.title,
    files: String(files.length),
    weight: weight(files.reduce((sum, { bytes }) => sum + bytes, 0)),
    part: String(part),
    parts: String(parts),
    studio: details.creator,
  });
  // Numbers as long as they can be: how many messages there are is known only when they are split.
  const longest = values(9999, 9999);
  const frame = frameBytes(fillIn(way.subject, longest), fillIn(way.text, longest), way.to);
  const open = files.filter(({ isGone }) => !isGone);
  const { messages, tooHeavy } = splitForMail(open, frame, way.mostBytes);
  const parts = before + messages.length;
  return {
    messages: messages.map((own, at) => ({
      subject: fillIn(way.subject, values(before + at + 1, parts)).trim(),
      text: fillIn(way.text, values(before + at + 1, parts)),
      paths: own.map(({ path }) => path),
    })),
    tooHeavy: tooHeavy.map(({ path }) => path),
  };
}
