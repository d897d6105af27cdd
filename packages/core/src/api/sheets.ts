import * as z from 'zod';
import { SheetLook } from '../sheet/sheet';
import { Id } from './sets';
import { OutputPart } from './runs';

/** A sheet of a set's pictures, or of what a preset has made of them. */
export const SheetWish = z
  .strictObject({
    look: SheetLook.prefault({}),
    of: z.discriminatedUnion('kind', [
      z.strictObject({ kind: z.literal('masters') }).meta({ description: 'The pictures themselves, as they are cropped' }),
      z
        .strictObject({ kind: z.literal('outputs'), presetId: Id, part: OutputPart.default('') })
        .meta({ description: 'What a preset has made of them, as it stands' }),
    ]),
    masterIds: z.array(Id).max(5000).default([]).meta({ description: 'Only these pictures; empty: all that are not left out' }),
  })
  .meta({ id: 'SheetWish' });
export type SheetWish = z.infer<typeof SheetWish>;
