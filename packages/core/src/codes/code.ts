import * as z from 'zod';

/**
 * A code in data that was stored or sent, typed by its catalogue. Any text is read: what an earlier release has stored, or a newer
 * server says, may have a code that this release does not know.
 */
export const code = <Code extends string>(): z.ZodType<Code, Code> =>
  z.string().meta({ description: 'Stable code for programs; docs/codes.md lists them' }) as unknown as z.ZodType<Code, Code>;
