import * as z from 'zod';
import { Id, Shelf, Time } from '../api/sets';
import { whole } from '../preset/fields';
import { CACHE_BOUND, CacheName } from './caches';

/** What space is used for. */
export const STORAGE_KINDS = ['masters', 'outputs', 'small-pictures', 'caches', 'uploads', 'bin', 'database'] as const;
export type StorageKind = (typeof STORAGE_KINDS)[number];

const Weighed = z.object({ files: z.int(), bytes: z.int() });

/** Files of one preset in one set. */
export const StoredOutputs = Weighed.extend({
  setId: Id,
  setTitle: z.string(),
  shelf: Shelf,
  presetId: Id,
  presetTitle: z.string(),
  versions: z.array(z.int()).meta({ description: 'Of the preset, by which they can be made again' }),
  elsewhere: Weighed.meta({ description: 'Of them, those that lie outside Rundle’s own folder' }),
  folders: z.array(z.string()).meta({ description: 'Where those lie' }),
}).meta({ id: 'StoredOutputs' });
export type StoredOutputs = z.infer<typeof StoredOutputs>;

/** Uploaded masters of one set. */
export const StoredMasters = Weighed.extend({ setId: Id, setTitle: z.string(), shelf: Shelf, onMachine: z.int() }).meta({
  id: 'StoredMasters',
});
export type StoredMasters = z.infer<typeof StoredMasters>;

/** What uses space, as it was measured. */
export const StorageView = z
  .object({
    measuredAt: Time.meta({ description: 'When it was begun' }),
    freeBytes: z.int().nullable(),
    kinds: z.array(Weighed.extend({ kind: z.enum(STORAGE_KINDS) })),
    masters: z.array(StoredMasters),
    outputs: z.array(StoredOutputs),
    caches: z.array(Weighed.extend({ cache: CacheName })),
    bin: z.object({
      sets: z.int(),
      pictures: z.int(),
      bytes: z.int().meta({ description: 'Of uploaded masters that only these have, beside what lies in the bin of files' }),
    }),
    boundMB: z.int().meta({ description: 'What caches may take together' }),
  })
  .meta({ id: 'StorageView' });
export type StorageView = z.infer<typeof StorageView>;

/** Which outputs are removed. */
export const OutputsRemoval = z
  .strictObject({
    setId: Id,
    presetId: Id.nullable().default(null).meta({ description: 'Null: of all presets' }),
    masterIds: z
      .array(Id)
      .min(1)
      .max(5000)
      .nullable()
      .default(null)
      .meta({ description: 'Only of these pictures, in the set or removed from it' }),
    elsewhere: z.boolean().default(false).meta({ description: 'Those outside Rundle’s own folder, too' }),
  })
  .meta({ id: 'OutputsRemoval' });
export type OutputsRemoval = z.infer<typeof OutputsRemoval>;

export const CacheRemoval = z.strictObject({ caches: z.array(CacheName).min(1) }).meta({ id: 'CacheRemoval' });

export const CacheBound = z.strictObject({ boundMB: whole(CACHE_BOUND.least, CACHE_BOUND.most, 'MB') }).meta({ id: 'CacheBound' });

export const BinRemoval = z
  .strictObject({
    measuredAt: Time.meta({ description: 'Of the measurement that was looked at: what has come into the bin since stays there' }),
  })
  .meta({ id: 'BinRemoval' });

/** What was removed, or is being removed. */
export const Freed = Weighed.meta({ id: 'Freed' });
export type Freed = z.infer<typeof Freed>;

/** What clearing pictures away would do. */
export const Clearing = z
  .object({
    pictures: z.int(),
    uploaded: Weighed.meta({ description: 'Those that Rundle has itself: they lie in the bin for 30 days, then they are gone' }),
    freed: z.int().meta({ description: 'Bytes that are free then: no other set has these files' }),
    paths: z.array(z.string()).meta({ description: 'Files of the machine: they are never touched' }),
    otherSets: z.array(z.string()).meta({ description: 'Sets that have some of these pictures, too' }),
    outputs: Weighed.meta({ description: 'What was made of them and still lies there' }),
  })
  .meta({ id: 'Clearing' });
export type Clearing = z.infer<typeof Clearing>;
