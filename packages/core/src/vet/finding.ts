import * as z from 'zod';

/** Something worth telling about a master or an output: a stable code, how serious, and a sentence. */
export const Finding = z.object({
  code: z.string(),
  severity: z.enum(['note', 'look']).meta({ description: 'note: told, not blamed; look: something may go wrong' }),
  message: z.string(),
});
export type Finding = z.infer<typeof Finding>;
