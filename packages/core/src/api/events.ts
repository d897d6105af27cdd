import * as z from 'zod';
import { Output, Run } from './runs';
import { Id, Master, SetDetail } from './sets';

/** What has changed in a set. */
export const SetEvent = z
  .discriminatedUnion('type', [
    z.object({ type: z.literal('masters'), masters: z.array(Master) }),
    z.object({ type: z.literal('masters-removed'), masterIds: z.array(Id) }),
    z.object({ type: z.literal('order'), masterIds: z.array(Id) }),
    z.object({ type: z.literal('set'), set: SetDetail }),
    z.object({ type: z.literal('weighed') }).meta({ description: 'Expected weights are known more exactly' }),
    z.object({ type: z.literal('outputs'), outputs: z.array(Output) }),
    z.object({ type: z.literal('run'), run: Run }),
  ])
  .meta({ id: 'SetEvent' });
export type SetEvent = z.infer<typeof SetEvent>;

/** Lists that all sets share. */
export const TOPICS = [
  'sets',
  'presets',
  'house-rules',
  'watermarks',
  'studio',
  'standing-orders',
  'deliveries',
  'receivers',
  'backups',
] as const;
export type Topic = (typeof TOPICS)[number];

/**
 * What the server tells on an event stream, as server-sent events: first the stream's own id, by which the sets that are to be followed are
 * named; then what changes in those, every run, and which of the shared lists have changed.
 */
export const StreamEvent = z
  .discriminatedUnion('about', [
    z.object({ about: z.literal('stream'), streamId: Id }),
    z.object({ about: z.literal('set'), setId: Id, event: SetEvent }),
    z.object({ about: z.literal('run'), run: Run }),
    z.object({ about: z.literal('topic'), topic: z.enum(TOPICS) }),
    z.object({ about: z.literal('beat') }).meta({ description: 'Nothing has changed, and the server is there' }),
  ])
  .meta({ id: 'StreamEvent' });
export type StreamEvent = z.infer<typeof StreamEvent>;

/** The sets that an event stream follows from now on. */
export const FollowedSets = z.strictObject({ setIds: z.array(Id).max(200) }).meta({ id: 'FollowedSets' });
