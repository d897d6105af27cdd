import * as z from 'zod';
import { Output, Run } from './runs';
import { Id, Master, SetDetail } from './sets';

/** What the server tells a page that shows a set, as server-sent events. */
export const SetEvent = z
  .discriminatedUnion('type', [
    z.object({ type: z.literal('masters'), masters: z.array(Master) }),
    z.object({ type: z.literal('masters-removed'), masterIds: z.array(Id) }),
    z.object({ type: z.literal('order'), masterIds: z.array(Id) }),
    z.object({ type: z.literal('set'), set: SetDetail }),
    z.object({ type: z.literal('outputs'), outputs: z.array(Output) }),
    z.object({ type: z.literal('run'), run: Run }),
  ])
  .meta({ id: 'SetEvent' });
export type SetEvent = z.infer<typeof SetEvent>;
