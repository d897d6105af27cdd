import * as z from 'zod';
import { flag, hexColour, line, oneOf } from '../preset/fields';

/** The typefaces that ship: a humanist sans, a serif and a monospaced one; see packages/render/src/mark/letters.ts. */
export const TYPEFACES = ['sans', 'serif', 'mono'] as const;
export type Typeface = (typeof TYPEFACES)[number];
export const MARK_EDGES = ['none', 'outline', 'shadow'] as const;
export type MarkEdge = (typeof MARK_EDGES)[number];

/** How a line of text is drawn. */
const lettering = {
  text: line(120, 1).meta({ title: 'Text' }),
  colour: hexColour().default('#ffffff').meta({ title: 'Colour' }),
  typeface: oneOf(TYPEFACES).default('sans').meta({ title: 'Typeface' }),
  edge: oneOf(MARK_EDGES).default('none').meta({ title: 'Edge', description: 'What sets the letters off: a thin line or a soft shadow' }),
  adapt: flag()
    .default(false)
    .meta({ title: 'Follow the ground', description: 'Whether it becomes dark on bright ground and light on dark ground' }),
};

/** A line of text as a watermark, and the file (`*.watermark.json`) that it travels in. */
export const TextWatermark = z
  .strictObject({
    kind: z.literal('rundle.watermark', { error: '"rundle.watermark"' }),
    version: z.literal(1, { error: '1, the only version of the watermark file this program knows' }),
    ...lettering,
  })
  .meta({ id: 'TextWatermark' });
export type TextWatermark = z.infer<typeof TextWatermark>;

const base64 = () => z.base64({ error: 'a file in base64' }).max(1_400_000, { error: 'a file of at most 1 MB' });

/** A logo as a file travels with its presets; `dark` is the variant for bright ground. */
export const LogoMark = z.strictObject({
  kind: z.enum(['png', 'svg'], { error: '"png" or "svg"' }),
  data: base64().min(1, { error: 'a file in base64' }).meta({ title: 'Logo' }),
  dark: base64().nullable().default(null).meta({ title: 'Logo for bright ground' }),
});
export type LogoMark = z.infer<typeof LogoMark>;

/** A watermark without its name: text, or a logo. */
export const SavedMark = z.discriminatedUnion('kind', [TextWatermark, LogoMark]).meta({ id: 'SavedMark' });
export type SavedMark = z.infer<typeof SavedMark>;

/** A line of text in a new watermark. */
export const NewText = z.strictObject({ kind: z.literal('text'), ...lettering });

/** A watermark, ready to be drawn: a line of text, or a picture that has been checked. */
export type Watermark =
  | { kind: 'text'; text: string; colour: string; typeface: Typeface; edge: MarkEdge; adapt: boolean }
  | { kind: 'png' | 'svg'; data: Uint8Array; dark: Uint8Array | null };
