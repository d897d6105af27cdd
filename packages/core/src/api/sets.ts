import * as z from 'zod';
import { MasterFacts } from '../facts/facts';
import { line } from '../preset/fields';
import { Problem } from '../problem';
import { Finding } from '../vet/finding';

export const Id = z.uuid();
export const Time = z.iso.datetime().meta({ description: 'UTC, ISO 8601' });

export const SetTitle = line(120, 1);

/** A set in the list of sets: the pictures of one job. */
export const SetSummary = z
  .object({
    id: Id,
    title: z.string(),
    createdAt: Time,
    pictures: z.int(),
    bytes: z.int().meta({ description: 'Weight of all masters' }),
    outputs: z.int().meta({ description: 'Outputs ready to hand over' }),
    running: z.boolean(),
    covers: z.array(Id).meta({ description: 'Up to four masters to show' }),
  })
  .meta({ id: 'SetSummary' });
export type SetSummary = z.infer<typeof SetSummary>;

export const NewSet = z.strictObject({ title: SetTitle }).meta({ id: 'NewSet' });

/** A master on its way in, readable, or not. */
export const MasterState = z.enum(['arriving', 'ready', 'failed']);

/** A source picture of a set, in set order. */
export const Master = z
  .object({
    id: Id,
    fileName: z.string(),
    position: z.int(),
    bytes: z.int(),
    state: MasterState,
    facts: MasterFacts.nullable().meta({ description: 'Null until it has been read' }),
    findings: z.array(Finding),
    problem: Problem.nullable().meta({ description: 'Why it cannot be read' }),
  })
  .meta({ id: 'Master' });
export type Master = z.infer<typeof Master>;

export const SetDetail = SetSummary.extend({ masters: z.array(Master) }).meta({ id: 'SetDetail' });
export type SetDetail = z.infer<typeof SetDetail>;

/** The answer to an upload: what came in, and what did not and why. */
export const UploadResult = z.object({ masters: z.array(Master), refused: z.array(Problem) }).meta({ id: 'UploadResult' });
export type UploadResult = z.infer<typeof UploadResult>;
