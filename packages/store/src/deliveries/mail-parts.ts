import { fillIn, frameBytes, type MailValues, type NewDelivery, splitForMail, StudioDetails, weight, withOwn } from '@rundle/core';
import type { Database } from '../database/connection';
import type { SetRow } from '../database/rows';

/**
 * The messages of a mail, split under their limit, with what is written in them.
 * @param files that are still to go
 * @param before how many messages have gone already
 * @param mostBytes that the server takes, beside the limit of the delivery
 */
export async function mailParts(
  { studio }: Database,
  set: SetRow,
  { way }: NewDelivery,
  files: readonly { path: string; bytes: number }[],
  before = 0,
  mostBytes = Infinity,
): Promise<{ messages: { subject: string; text: string; paths: string[] }[]; tooHeavy: string[] }> {
  if (way.kind !== 'mail') return { messages: [], tooHeavy: [] };
  const details = withOwn(StudioDetails.parse((await studio.findByPk(1))?.details ?? {}), StudioDetails.parse(set.rights));
  const values = (own: readonly { bytes: number }[], part: number, parts: number): MailValues => ({
    set: set.title,
    files: String(own.length),
    weight: weight(own.reduce((sum, { bytes }) => sum + bytes, 0)),
    part: parts > 1 ? String(part) : null,
    parts: parts > 1 ? String(parts) : null,
    studio: details.creator || null,
  });
  // Numbers as long as they can be: how many messages there are is known only when they are split.
  const longest = values(files, 9999, 9999);
  const frame = frameBytes(fillIn(way.subject, longest), fillIn(way.text, longest), way.to);
  const { messages, tooHeavy } = splitForMail(files, frame, Math.min(way.mostBytes, mostBytes));
  const parts = before + messages.length;
  return {
    messages: messages.map((own, at) => ({
      subject: fillIn(way.subject, values(own, before + at + 1, parts)).trim(),
      text: fillIn(way.text, values(own, before + at + 1, parts)),
      paths: own.map(({ path }) => path),
    })),
    tooHeavy: tooHeavy.map(({ path }) => path),
  };
}
