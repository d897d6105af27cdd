import * as z from 'zod';
import { line, whole } from '../preset/fields';
import { DatePattern } from './date-pattern';

/** Text inside a name: no path separators, they belong to the folder. */
const nameText = line(100).regex(/^[^/\\]*$/, { error: 'text without "/" and "\\"; levels belong to folder' });

const PARTS = 'original, text, counter, date, set, preset, long-edge, width, height, creator, size, row, column';

export const NamePart = z.discriminatedUnion(
  'part',
  [
    z.strictObject({ part: z.literal('original') }),
    z.strictObject({ part: z.literal('text'), text: nameText }),
    z.strictObject({
      part: z.literal('counter'),
      start: whole(0, 999_999).default(1),
      step: whole(1, 1000).default(1),
      digits: whole(1, 9).default(3),
    }),
    z.strictObject({ part: z.literal('date'), pattern: DatePattern.default('yyyy-MM-dd') }),
    z.strictObject({ part: z.literal('set') }),
    z.strictObject({ part: z.literal('preset') }),
    z.strictObject({ part: z.literal('long-edge') }),
    z.strictObject({ part: z.literal('width') }),
    z.strictObject({ part: z.literal('height') }),
    z.strictObject({ part: z.literal('creator') }),
    z.strictObject({ part: z.literal('size') }),
    z.strictObject({ part: z.literal('row') }),
    z.strictObject({ part: z.literal('column') }),
  ],
  { error: `a part that is one of ${PARTS}` },
);
export type NamePart = z.infer<typeof NamePart>;
