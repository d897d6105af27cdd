import * as z from 'zod';
import { LogoMark, MARK_EDGES, NewText, TYPEFACES } from '../mark/watermark';
import { line } from '../preset/fields';
import { Problem } from '../problem';
import { Id } from './sets';

const title = line(120, 1).meta({ title: 'Name' });

/** A watermark on its way in: a line of text, or a logo as a file. */
export const NewWatermark = z
  .discriminatedUnion('kind', [NewText.extend({ title }), LogoMark.extend({ title })])
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
    typeface: z.enum(TYPEFACES),
    edge: z.enum(MARK_EDGES),
    adapt: z
      .boolean()
      .meta({ description: 'Whether it follows the tone underneath; a logo does where it has a variant for bright ground' }),
    state: z.enum(['checking', 'ready', 'refused']),
    problem: Problem.nullable(),
  })
  .meta({ id: 'StoredWatermark' });
export type StoredWatermark = z.infer<typeof StoredWatermark>;
