import * as z from 'zod';
import { Problem } from '../problem';

/** An error of the HTTP interface (RFC 9457), media type application/problem+json. */
export const ProblemDetails = z
  .object({
    type: z.string().meta({ description: 'about:blank, as RFC 9457 has it where title and status say enough' }),
    title: z.string(),
    status: z.int(),
    detail: z.string(),
    code: Problem.shape.code,
    problems: z.array(Problem).optional().meta({ description: 'One per wrong field' }),
  })
  .meta({ id: 'ProblemDetails' });
export type ProblemDetails = z.infer<typeof ProblemDetails>;
