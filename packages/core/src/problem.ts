import * as z from 'zod';
import { code } from './codes/code';
import type { ProblemCode } from './codes/problem-codes';

/**
 * What went wrong or needs a look, as data: a stable code for programs, a sentence for people, and what it is about.
 * Thrown only at the edges; everywhere else it is passed along.
 */
export const Problem = z.object({
  code: code<ProblemCode>(),
  message: z.string().meta({ description: 'One or two sentences: what is wrong and what to do' }),
  field: z.string().optional().meta({ description: 'Path of the field it is about, for instance "size.px"' }),
  file: z.string().optional().meta({ description: 'Name of the file it is about' }),
});
export type Problem = z.infer<typeof Problem>;

/** An error that carries a {@link Problem}: for the edges, where something has to be thrown. */
export class ProblemError extends Error {
  constructor(readonly problem: Problem) {
    super(problem.message);
    this.name = 'ProblemError';
  }
}

/**
 * The {@link Problem} inside anything that was thrown.
 * @param thrown whatever a `catch` received
 * @param otherwise the code to give to errors that carry none of their own
 */
export function problemOf(thrown: unknown, otherwise: ProblemCode = 'internal'): Problem {
  if (thrown instanceof ProblemError) return thrown.problem;
  return { code: otherwise, message: thrown instanceof Error ? thrown.message : String(thrown) };
}

/** What is said of a file that has vanished since it was last seen. */
export const FILE_GONE: Problem = {
  code: 'missing',
  message: 'The file is not there any more. Put it back, or remove the picture from the set.',
};
