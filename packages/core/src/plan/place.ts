import * as z from 'zod';
import { FolderPath } from '../name/folder';
import type { OutputOf } from '../parts/output-of';
import { oneOf } from '../preset/fields';
import type { Preset } from '../preset/schema';
import { Finding } from '../vet/finding';

/** A folder of the machine by its whole path; what it may hold is checked where it is used. */
export const MachinePath = z
  .string()
  .max(4000)
  .refine((path) => path.startsWith('/') && !path.includes('\0') && !path.split('/').includes('..'), {
    error: 'a whole path on this machine, such as /srv/pictures',
  });

/** Where the files of a set go. Below it each preset has the folder that it names. */
export const Place = z
  .discriminatedUnion('kind', [
    z.strictObject({ kind: z.literal('own') }).meta({ description: 'Rundle’s own folder for the set' }),
    z.strictObject({ kind: z.literal('folder'), path: MachinePath }).meta({ description: 'A folder of the machine' }),
    z
      .strictObject({ kind: z.literal('masters'), folder: FolderPath.default('') })
      .meta({ description: 'The folder in which each master lies, or one below it' }),
  ])
  .meta({ id: 'Place' });
export type Place = z.infer<typeof Place>;

export const OWN_PLACE: Place = { kind: 'own' };

/** A place behind "Files go". */
export function placeWords(place: Place): string {
  switch (place.kind) {
    case 'own':
      return 'into Rundle’s own folder';
    case 'folder':
      return `to ${place.path}`;
    case 'masters':
      return place.folder ? `beside the masters, into “${place.folder}”` : 'into the folders of the masters';
  }
}

/**
 * Where the files of a preset go in a set: where that was said for this preset, else what the preset says, else where the set says.
 * @param said for this preset in this set
 */
export function placeOfPreset(preset: Pick<Preset, 'place'>, said: Place | undefined, ofSet: Place): Place {
  if (said) return said;
  if (preset.place !== 'masters') return ofSet;
  return ofSet.kind === 'masters' ? ofSet : { kind: 'masters', folder: '' };
}

/** Whether a preset wants to be told where its files go, and has not been. */
export const asksForPlace = (preset: Pick<Preset, 'place'>, said: Place | undefined): boolean => preset.place === 'ask' && !said;

/** Why what stands somewhere is not what would be made now. */
export const StaleReason = oneOf(['preset', 'picture', 'credit', 'watermark', 'decision', 'engine']).meta({
  description:
    'preset: it was changed or varied; picture: the master’s content; credit: the details that are filled in; decision: what was decided about the picture; engine: an earlier version of Rundle',
});
export type StaleReason = z.infer<typeof StaleReason>;

/** A file that was made before, at the place where one would be made now. */
export const MadeFile = z.object({
  outputId: z.uuid(),
  width: z.int(),
  height: z.int(),
  bytes: z.int(),
  quality: z.int().nullable(),
  presetVersion: z.int(),
  at: z.iso.datetime().meta({ description: 'When it was finished, UTC' }),
  remarks: z.array(Finding).meta({ description: 'What was worth telling of it' }),
});
export type MadeFile = z.infer<typeof MadeFile>;

/**
 * What stands at a path now. A stranger's file, and one of ours that somebody has changed, is never replaced.
 */
export type Standing =
  | { is: 'free' }
  | { is: 'master' }
  | { is: 'stranger' }
  /** The current file of a picture of the set and a preset of the run, unchanged since it was made. */
  | ({ is: 'current' } & OutputOf)
  /** On the command line, whose caller names the folder: whatever is no master may be replaced where the preset says so. */
  | {
      is: 'ours';
      /** What would be made now of the same master by the same preset: then it is left as it is. */
      upToDate: boolean;
      /** Why not, where it was made of the same master by the same preset. */
      stale: StaleReason | null;
      made: MadeFile | null;
    };
