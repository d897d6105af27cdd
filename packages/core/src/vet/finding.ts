import * as z from 'zod';
import { code } from '../codes/code';
import { FINDING_CODES, type FindingCode } from '../codes/finding-codes';

/** Something worth telling about a master or an output: a stable code, how serious, and a sentence. */
export const Finding = z.object({
  code: code<FindingCode>(),
  severity: z.enum(['note', 'look']).meta({ description: 'note: for information; look: something may go wrong' }),
  message: z.string(),
});
export type Finding = z.infer<typeof Finding>;

/** @param message the sentence for this case, with its figures and names */
export const finding = (about: FindingCode, message: string): Finding => ({
  code: about,
  severity: FINDING_CODES[about].severity,
  message,
});
