import * as z from 'zod';
import { hexColour, line } from '../preset/fields';
import { Problem } from '../problem';
import { Id } from './sets';

const title = line(120, 1).meta({ title: 'Name' });

/** A watermark on its way in: a line of text, or a logo as a file. */
export const NewWatermark = z
  .discriminatedUnion('kind', [
    z.strictObject({
      kind: z.literal('text'),
      title,
      text: line(120, 1).meta({ title: 'Text' }),
      colour: hexColour().default('#ffffff').meta({ title: 'Colour' }),
    }),
    z.strictObject({
      kind: z.enum(['png', 'svg']),
      title,
      data: z.base64({ error: 'the file, base64' }).max(1_400_000, { error: 'a file of at most 1 MB' }).meta({ title: 'Logo' }),
    }),
  ])
  .meta({ id: 'NewWatermark' });
export type NewWatermark = z.infer<typeof NewWatermark>;

/** A watermark of the studio. Presets name it by its id; it can be used once it has been checked. */
export const StoredWatermark = z
  .object({
    id: Id,
    title: z.string(),
    kind: z.enum(['text', 'png', 'svg']),
    text: z.string().nullable(),
    colour: z.string().nullable(),
    state: z.enum(['checking', 'ready', 'refused']),
    problem: Problem.nullable(),
  })
  .meta({ id: 'StoredWatermark' });
export type StoredWatermark = z.infer<typeof StoredWatermark>;
