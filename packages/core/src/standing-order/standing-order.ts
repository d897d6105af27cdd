import * as z from 'zod';
import { RunCounts } from '../api/runs';
import { Id, Time } from '../api/sets';
import { MachinePath, Place } from '../plan/place';
import { line, oneOf } from '../preset/fields';
import { Problem } from '../problem';

/** What may be changed of a standing order. */
const Changeable = z.strictObject({
  title: line(90, 1).meta({ title: 'Title' }),
  presetIds: z.array(Id).min(1, { error: 'at least one preset' }).max(12, { error: 'at most 12 presets' }),
  place: Place,
  on: z.boolean().meta({ description: 'Off: it takes nothing; what comes meanwhile is taken when it is on again' }),
});

/** A folder of the machine whose new pictures are gathered and run through presets by themselves. */
export const NewStandingOrder = Changeable.omit({ on: true })
  .extend({
    folder: MachinePath.meta({ title: 'Folder', description: 'The folder that is watched, below RUNDLE_ROOTS' }),
    deeper: z.boolean().meta({ description: 'Whether its sub-folders are watched as well' }),
    takeExisting: z.boolean().meta({ description: 'Whether the pictures are taken that lie there already' }),
  })
  .meta({ id: 'NewStandingOrder' });
export type NewStandingOrder = z.infer<typeof NewStandingOrder>;

export const StandingOrderChange = Changeable.partial().meta({ id: 'StandingOrderChange' });
export type StandingOrderChange = z.infer<typeof StandingOrderChange>;

/** What a standing order did on a day. */
export const OrderDay = z.object({
  setId: Id.nullable().meta({ description: 'The set of the day; null: nothing has come' }),
  taken: z.int().meta({ description: 'Pictures that came' }),
  reading: z.int().meta({ description: 'Of those, such as are still being read' }),
  unreadable: z.int().meta({ description: 'Of those, such as cannot be read' }),
  refused: z.int().meta({ description: 'Files that are called as pictures are, and could not come in' }),
  counts: RunCounts.meta({ description: 'Of the runs of its set' }),
});
export type OrderDay = z.infer<typeof OrderDay>;

export const StandingOrder = Changeable.extend({
  id: Id,
  folder: z.string(),
  deeper: z.boolean(),
  createdAt: Time,
  problem: Problem.nullable().meta({ description: 'Why it can do nothing at present' }),
  today: OrderDay,
}).meta({ id: 'StandingOrder' });
export type StandingOrder = z.infer<typeof StandingOrder>;

/** What became of a file of a watched folder. */
export const FileFate = oneOf(['left', 'own', 'taken', 'twin', 'refused']).meta({
  description:
    'left: it lay there when the order was made; own: Rundle made it; taken: it is in a set; twin: another file that came is the same; refused: it could not come in',
});
export type FileFate = z.infer<typeof FileFate>;

/** A file of a watched folder, on record. */
export const OrderFile = z
  .object({
    path: z.string().meta({ description: 'Below the folder' }),
    at: Time,
    fate: FileFate,
    twinOf: z.string().nullable().meta({ description: 'Path of the file that is the same' }),
    run: z.boolean().meta({ description: 'Whether a run has been started for it' }),
    setId: Id.nullable(),
    setTitle: z.string().nullable(),
    problem: Problem.nullable(),
  })
  .meta({ id: 'OrderFile' });
export type OrderFile = z.infer<typeof OrderFile>;
