import * as z from 'zod';
import { line } from '../preset/fields';

/** What somebody wants to look at again: a picture as a preset makes it, until a run makes it anew. */
export const SecondLook = z
  .strictObject({
    masterId: z.uuid(),
    presetId: z.uuid(),
    note: line(300),
    markedAt: z.iso.datetime().nullable().default(null).meta({ description: 'Set by the server; null: not known yet' }),
  })
  .meta({ id: 'SecondLook' });
export type SecondLook = z.infer<typeof SecondLook>;

/**
 * The looks that are still due: one is over once its file has been made anew after it was marked.
 * @param madeAt when the newest file of a picture and preset was finished, ms since 1970; null: there is none
 */
export const dueLooks = (looks: readonly SecondLook[], madeAt: (look: SecondLook) => number | null): SecondLook[] =>
  looks.filter((look) => look.markedAt === null || (madeAt(look) ?? 0) <= Date.parse(look.markedAt));

/**
 * Looks as they are to be kept: those that were there keep the time at which they were marked, new ones get this one.
 * @param now ISO 8601
 */
export const stampedLooks = (before: readonly SecondLook[], after: readonly SecondLook[], now: string): SecondLook[] =>
  after.map((look) => {
    const known = before.find((one) => one.masterId === look.masterId && one.presetId === look.presetId && one.note === look.note);
    return { ...look, markedAt: known?.markedAt ?? now };
  });
