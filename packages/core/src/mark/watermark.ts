import * as z from 'zod';
import { hexColour, line } from '../preset/fields';

/** A line of text as a watermark, and the file (`*.watermark.json`) that it travels in. */
export const TextWatermark = z
  .strictObject({
    kind: z.literal('rundle.watermark', { error: '"rundle.watermark"' }),
    version: z.literal(1, { error: '1, the only version of the watermark file this program knows' }),
    text: line(120, 1).meta({ title: 'Text' }),
    colour: hexColour().default('#ffffff').meta({ title: 'Colour' }),
  })
  .meta({ id: 'TextWatermark' });
export type TextWatermark = z.infer<typeof TextWatermark>;

/** A watermark, ready to be drawn: a line of text, or a picture that has been checked. */
export type Watermark = { kind: 'text'; text: string; colour: string } | { kind: 'png' | 'svg'; data: Uint8Array };
